-- +goose Up
-- Rules that one color may, or may not, stand on another.
CREATE TABLE pairs (
  color_id BIGINT UNSIGNED NOT NULL,
  ground_id BIGINT UNSIGNED NOT NULL,
  house_id BIGINT UNSIGNED NOT NULL,
  may BOOLEAN NOT NULL,
  ratio DOUBLE NOT NULL, -- the least contrast ratio; 0 where it may not
  by_user BIGINT UNSIGNED NULL,
  by_name VARCHAR(120) NOT NULL,
  at DATETIME(3) NOT NULL,
  PRIMARY KEY (color_id, ground_id),
  KEY pairs_house (house_id),
  CONSTRAINT pairs_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE,
  CONSTRAINT pairs_color FOREIGN KEY (color_id) REFERENCES colors (id) ON DELETE CASCADE,
  CONSTRAINT pairs_ground FOREIGN KEY (ground_id) REFERENCES colors (id) ON DELETE CASCADE,
  CONSTRAINT pairs_by FOREIGN KEY (by_user) REFERENCES users (id) ON DELETE SET NULL
);
