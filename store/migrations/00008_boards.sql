-- +goose Up
-- Boards: options for somebody to choose from, as they are worked on.
CREATE TABLE boards (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id BIGINT UNSIGNED NOT NULL,
  title VARCHAR(120) NOT NULL,
  version INT NOT NULL,
  content MEDIUMTEXT NOT NULL,
  by_user BIGINT UNSIGNED NULL,
  by_name VARCHAR(120) NOT NULL,
  changed_at DATETIME(3) NOT NULL,
  KEY boards_house (house_id, id),
  CONSTRAINT boards_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE,
  CONSTRAINT boards_by FOREIGN KEY (by_user) REFERENCES users (id) ON DELETE SET NULL
);

-- Sheets: boards as they were shown to somebody. Written once.
CREATE TABLE board_sheets (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  board_id BIGINT UNSIGNED NOT NULL,
  house_id BIGINT UNSIGNED NOT NULL,
  number INT NOT NULL,
  content MEDIUMTEXT NOT NULL,
  by_user BIGINT UNSIGNED NULL,
  by_name VARCHAR(120) NOT NULL,
  fixed_at DATETIME(3) NOT NULL,
  UNIQUE KEY board_sheets_number (board_id, number),
  KEY board_sheets_house (house_id),
  CONSTRAINT board_sheets_board FOREIGN KEY (board_id) REFERENCES boards (id) ON DELETE CASCADE,
  CONSTRAINT board_sheets_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE,
  CONSTRAINT board_sheets_by FOREIGN KEY (by_user) REFERENCES users (id) ON DELETE SET NULL
);

-- What people without an account chose, one row a person.
CREATE TABLE board_answers (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  sheet_id BIGINT UNSIGNED NOT NULL,
  page CHAR(64) NOT NULL, -- digest of the page it was sent from, so that sending twice is one answer
  name VARCHAR(120) NOT NULL,
  name_key VARCHAR(190) NOT NULL,
  choice INT NOT NULL, -- place of the option
  comment TEXT NOT NULL,
  first_at DATETIME(3) NOT NULL,
  at DATETIME(3) NOT NULL,
  UNIQUE KEY board_answers_name (sheet_id, name_key),
  CONSTRAINT board_answers_sheet FOREIGN KEY (sheet_id) REFERENCES board_sheets (id) ON DELETE CASCADE
);

-- Typefaces of a house's own. One that was taken away stays for the sheets that are set in it.
CREATE TABLE typefaces (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(120) NOT NULL,
  kind VARCHAR(8) NOT NULL, -- woff2, ttf or otf
  data LONGBLOB NOT NULL,
  by_name VARCHAR(120) NOT NULL,
  added_at DATETIME(3) NOT NULL,
  removed_at DATETIME(3) NULL,
  KEY typefaces_house (house_id, id),
  CONSTRAINT typefaces_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE
);

-- Logos of boards, by their checksum, so that a sheet keeps the one it was fixed with.
CREATE TABLE logos (
  house_id BIGINT UNSIGNED NOT NULL,
  sha256 CHAR(64) NOT NULL,
  data LONGBLOB NOT NULL, -- PNG
  PRIMARY KEY (house_id, sha256),
  CONSTRAINT logos_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE
);

ALTER TABLE links ADD COLUMN phrase_hash VARCHAR(190) NOT NULL DEFAULT ''; -- argon2id; empty for a link without a pass phrase
