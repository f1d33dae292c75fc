-- +goose Up
-- What a house says of how files are loaded, and what recipients could not load.
CREATE TABLE loading_notes (
  house_id   BIGINT UNSIGNED NOT NULL,
  note       VARCHAR(40) NOT NULL,
  text       TEXT NOT NULL,
  picture    LONGBLOB NOT NULL,
  version    INT NOT NULL,
  by_name    VARCHAR(120) NOT NULL,
  changed_at DATETIME(3) NOT NULL,
  PRIMARY KEY (house_id, note),
  CONSTRAINT loading_notes_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
CREATE TABLE troubles (
  id           BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id     BIGINT UNSIGNED NOT NULL,
  recipient_id BIGINT UNSIGNED NOT NULL,
  set_id       BIGINT UNSIGNED NOT NULL,
  number       INT NOT NULL,
  packing      VARCHAR(40) NOT NULL,
  tried        TEXT NOT NULL,
  times        INT NOT NULL,
  at           DATETIME(3) NOT NULL,
  last_at      DATETIME(3) NOT NULL,
  settled_at   DATETIME(3) NULL,
  settled_by   VARCHAR(120) NOT NULL DEFAULT '',
  UNIQUE KEY troubles_of (recipient_id, set_id, number, packing),
  KEY troubles_house (house_id, settled_at),
  CONSTRAINT troubles_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
