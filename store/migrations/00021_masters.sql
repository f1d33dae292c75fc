-- +goose Up
-- What decides a color, where it is not the hex: a reading, or a screen value beyond 8 bits of sRGB.
ALTER TABLE colors RENAME COLUMN lab TO master;
ALTER TABLE colors MODIFY COLUMN master VARCHAR(200) NOT NULL DEFAULT '';
UPDATE colors SET master = CONCAT('reading ', master) WHERE master <> '' AND master NOT LIKE 'reading %' AND master NOT LIKE 'screen %';
ALTER TABLE candidates RENAME COLUMN lab TO master;
ALTER TABLE candidates MODIFY COLUMN master VARCHAR(200) NOT NULL DEFAULT '';
UPDATE candidates SET master = CONCAT('reading ', master) WHERE master <> '' AND master NOT LIKE 'reading %' AND master NOT LIKE 'screen %';
ALTER TABLE suggestions MODIFY COLUMN value VARCHAR(200) NOT NULL;
-- What decided it when a value was approved for it.
ALTER TABLE builds ADD COLUMN meant VARCHAR(200) NOT NULL DEFAULT '';
ALTER TABLE spots ADD COLUMN meant VARCHAR(200) NOT NULL DEFAULT '';
