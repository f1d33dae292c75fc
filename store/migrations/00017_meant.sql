-- +goose Up
-- Which classes of inks the nearest ink of a color is taken from, one a line; empty for all.
ALTER TABLE houses ADD COLUMN ink_classes VARCHAR(500) NOT NULL DEFAULT 'solid';

-- +goose Down
ALTER TABLE houses DROP COLUMN ink_classes;
