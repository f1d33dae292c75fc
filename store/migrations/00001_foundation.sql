-- +goose Up
CREATE TABLE users (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  email VARCHAR(190) NOT NULL,
  name VARCHAR(120) NOT NULL,
  password_hash VARCHAR(255) NOT NULL,
  created_at DATETIME(3) NOT NULL,
  UNIQUE KEY users_email (email)
);

CREATE TABLE sessions (
  token_hash CHAR(64) NOT NULL PRIMARY KEY,
  user_id BIGINT UNSIGNED NOT NULL,
  csrf CHAR(43) NOT NULL,
  expires_at DATETIME(3) NOT NULL,
  KEY sessions_expires (expires_at),
  CONSTRAINT sessions_user FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE CASCADE
);

-- Failed sign-ins by address, so that guessing gets slow whatever instance it is tried on.
CREATE TABLE sign_in_failures (
  email_key CHAR(64) NOT NULL PRIMARY KEY,
  failures INT NOT NULL,
  last_at DATETIME(3) NOT NULL
);

CREATE TABLE houses (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(120) NOT NULL,
  tolerance DOUBLE NOT NULL,
  neutrals BOOLEAN NOT NULL,
  created_at DATETIME(3) NOT NULL
);

CREATE TABLE members (
  user_id BIGINT UNSIGNED NOT NULL,
  house_id BIGINT UNSIGNED NOT NULL,
  role VARCHAR(16) NOT NULL,
  PRIMARY KEY (user_id, house_id),
  CONSTRAINT members_user FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE CASCADE,
  CONSTRAINT members_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE
);

CREATE TABLE color_groups (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(120) NOT NULL,
  name_key VARCHAR(250) NOT NULL,
  position INT NOT NULL,
  UNIQUE KEY color_groups_name (house_id, name_key),
  CONSTRAINT color_groups_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE
);

CREATE TABLE colors (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id BIGINT UNSIGNED NOT NULL,
  group_id BIGINT UNSIGNED NULL,
  name VARCHAR(120) NOT NULL,
  name_key VARCHAR(250) NOT NULL,
  hex CHAR(7) NOT NULL,
  role VARCHAR(16) NOT NULL,
  rule TEXT NOT NULL,
  status VARCHAR(10) NOT NULL,
  successor_id BIGINT UNSIGNED NULL,
  position INT NOT NULL,
  version INT NOT NULL,
  created_at DATETIME(3) NOT NULL,
  updated_at DATETIME(3) NOT NULL,
  UNIQUE KEY colors_name (house_id, name_key),
  KEY colors_hex (house_id, hex),
  CONSTRAINT colors_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE,
  CONSTRAINT colors_group FOREIGN KEY (group_id) REFERENCES color_groups (id) ON DELETE SET NULL,
  CONSTRAINT colors_successor FOREIGN KEY (successor_id) REFERENCES colors (id) ON DELETE SET NULL
);

-- Approved CMYK builds; derived ones are computed.
CREATE TABLE builds (
  color_id BIGINT UNSIGNED NOT NULL,
  press VARCHAR(60) NOT NULL,
  c DOUBLE NOT NULL,
  m DOUBLE NOT NULL,
  y DOUBLE NOT NULL,
  k DOUBLE NOT NULL,
  by_name VARCHAR(120) NOT NULL,
  approved_at DATETIME(3) NOT NULL,
  for_hex CHAR(7) NOT NULL,
  PRIMARY KEY (color_id, press),
  CONSTRAINT builds_color FOREIGN KEY (color_id) REFERENCES colors (id) ON DELETE CASCADE
);

-- Approved spot inks; the nearest ones are computed.
CREATE TABLE spots (
  color_id BIGINT UNSIGNED NOT NULL,
  stock VARCHAR(16) NOT NULL,
  code VARCHAR(60) NOT NULL,
  by_name VARCHAR(120) NOT NULL,
  approved_at DATETIME(3) NOT NULL,
  for_hex CHAR(7) NOT NULL,
  PRIMARY KEY (color_id, stock),
  CONSTRAINT spots_color FOREIGN KEY (color_id) REFERENCES colors (id) ON DELETE CASCADE
);

CREATE TABLE color_events (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  color_id BIGINT UNSIGNED NOT NULL,
  at DATETIME(3) NOT NULL,
  by_name VARCHAR(120) NOT NULL,
  what TEXT NOT NULL,
  before_hex CHAR(7) NOT NULL,
  after_hex CHAR(7) NOT NULL,
  KEY color_events_color (color_id, id),
  CONSTRAINT color_events_color FOREIGN KEY (color_id) REFERENCES colors (id) ON DELETE CASCADE
);

CREATE TABLE candidates (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  user_id BIGINT UNSIGNED NOT NULL,
  house_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(120) NOT NULL,
  hex CHAR(7) NOT NULL,
  source VARCHAR(1000) NOT NULL,
  remark VARCHAR(250) NOT NULL,
  cmyk VARCHAR(60) NOT NULL,
  created_at DATETIME(3) NOT NULL,
  KEY candidates_tray (user_id, house_id, id),
  CONSTRAINT candidates_user FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE CASCADE,
  CONSTRAINT candidates_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE
);

CREATE TABLE swatch_sets (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(120) NOT NULL,
  name_key VARCHAR(250) NOT NULL,
  position INT NOT NULL,
  version INT NOT NULL,
  UNIQUE KEY swatch_sets_name (house_id, name_key),
  CONSTRAINT swatch_sets_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE
);

CREATE TABLE set_colors (
  set_id BIGINT UNSIGNED NOT NULL,
  color_id BIGINT UNSIGNED NOT NULL,
  position INT NOT NULL,
  PRIMARY KEY (set_id, color_id),
  CONSTRAINT set_colors_set FOREIGN KEY (set_id) REFERENCES swatch_sets (id) ON DELETE CASCADE,
  CONSTRAINT set_colors_color FOREIGN KEY (color_id) REFERENCES colors (id) ON DELETE CASCADE
);

-- Editions are written once and never changed: content holds every value as it was.
CREATE TABLE editions (
  set_id BIGINT UNSIGNED NOT NULL,
  number INT NOT NULL,
  house_id BIGINT UNSIGNED NOT NULL,
  fixed_at DATETIME(3) NOT NULL,
  by_name VARCHAR(120) NOT NULL,
  content LONGTEXT NOT NULL,
  PRIMARY KEY (set_id, number),
  KEY editions_house (house_id),
  CONSTRAINT editions_set FOREIGN KEY (set_id) REFERENCES swatch_sets (id) ON DELETE CASCADE,
  CONSTRAINT editions_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE
);

CREATE TABLE recipients (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(120) NOT NULL,
  name_key VARCHAR(250) NOT NULL,
  kind VARCHAR(16) NOT NULL,
  note TEXT NOT NULL,
  UNIQUE KEY recipients_name (house_id, name_key),
  CONSTRAINT recipients_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE
);

-- One row a packing that went out; ok is false until a receipt says that it was taken.
CREATE TABLE deliveries (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  recipient_id BIGINT UNSIGNED NOT NULL,
  set_id BIGINT UNSIGNED NOT NULL,
  number INT NOT NULL,
  packing VARCHAR(32) NOT NULL,
  by_name VARCHAR(120) NOT NULL,
  sent_at DATETIME(3) NOT NULL,
  received_at DATETIME(3) NULL,
  ok BOOLEAN NOT NULL,
  taken INT NOT NULL,
  slots INT NOT NULL,
  message TEXT NOT NULL,
  KEY deliveries_set (set_id, recipient_id, id),
  CONSTRAINT deliveries_recipient FOREIGN KEY (recipient_id) REFERENCES recipients (id) ON DELETE CASCADE,
  CONSTRAINT deliveries_edition FOREIGN KEY (set_id, number) REFERENCES editions (set_id, number) ON DELETE CASCADE
);

CREATE TABLE audits (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id BIGINT UNSIGNED NOT NULL,
  by_name VARCHAR(120) NOT NULL,
  at DATETIME(3) NOT NULL,
  file_name VARCHAR(250) NOT NULL,
  kind VARCHAR(16) NOT NULL,
  size BIGINT NOT NULL,
  blob_key VARCHAR(190) NOT NULL,
  tolerance DOUBLE NOT NULL,
  uses INT NOT NULL,
  findings INT NOT NULL,
  score DOUBLE NOT NULL,
  report LONGTEXT NOT NULL,
  KEY audits_house (house_id, id),
  CONSTRAINT audits_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE
);
