-- +goose Up
-- Programs that are told of what happens, what they were told, and which state of each color they know.
CREATE TABLE hooks (
  id         BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id   BIGINT UNSIGNED NOT NULL,
  address    VARCHAR(1000) NOT NULL,
  events     VARCHAR(200) NOT NULL,
  secret     TEXT NOT NULL,
  paused_at  DATETIME(3) NULL,
  why        VARCHAR(300) NOT NULL DEFAULT '',
  by_name    VARCHAR(120) NOT NULL,
  created_at DATETIME(3) NOT NULL,
  KEY hooks_house (house_id),
  CONSTRAINT hooks_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
CREATE TABLE hook_messages (
  id         CHAR(28) NOT NULL PRIMARY KEY,
  hook_id    BIGINT UNSIGNED NOT NULL,
  event      VARCHAR(40) NOT NULL,
  body       MEDIUMTEXT NOT NULL,
  state      VARCHAR(8) NOT NULL,
  attempts   INT NOT NULL,
  status     INT NOT NULL,
  answer     VARCHAR(600) NOT NULL,
  at         DATETIME(3) NOT NULL,
  next_at    DATETIME(3) NULL,
  KEY hook_messages_hook (hook_id, at),
  CONSTRAINT hook_messages_hook FOREIGN KEY (hook_id) REFERENCES hooks (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
CREATE TABLE hook_colors (
  color_id BIGINT UNSIGNED NOT NULL PRIMARY KEY,
  house_id BIGINT UNSIGNED NOT NULL,
  status   VARCHAR(16) NOT NULL,
  KEY hook_colors_house (house_id),
  CONSTRAINT hook_colors_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
ALTER TABLE members ADD COLUMN monthly BOOLEAN NOT NULL DEFAULT FALSE;
ALTER TABLE members ADD COLUMN monthly_at DATETIME(3) NULL;
