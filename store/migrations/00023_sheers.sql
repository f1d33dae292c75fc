-- +goose Up
-- A companion may be a sheer: an opacity over another color of the house, or over white, which is 0.
ALTER TABLE companions ADD COLUMN ground_id BIGINT UNSIGNED NOT NULL DEFAULT 0;
ALTER TABLE companions DROP PRIMARY KEY, ADD PRIMARY KEY (color_id, kind, amount, ground_id);
ALTER TABLE companions ADD INDEX companions_ground (ground_id);
