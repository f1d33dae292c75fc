-- +goose Up
-- Press conditions that a keeper added from a printer's own ICC profile.
CREATE TABLE presses (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(60) NOT NULL,
  label VARCHAR(120) NOT NULL,
  ink_limit DOUBLE NOT NULL,
  profile LONGBLOB NOT NULL,
  by_name VARCHAR(120) NOT NULL,
  added_at DATETIME(3) NOT NULL,
  UNIQUE KEY presses_name (house_id, name),
  CONSTRAINT presses_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE
);
