-- +goose Up
-- What instances tell each other, for a minute.
CREATE TABLE instance_news (
  id       BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  instance CHAR(16) NOT NULL,
  at       DATETIME(3) NOT NULL,
  news     MEDIUMTEXT NOT NULL,
  INDEX instance_news_at (at)
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
