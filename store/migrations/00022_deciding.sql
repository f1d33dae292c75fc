-- +goose Up
-- A build or an ink may decide a color too; it names its press or its book and how it looks.
ALTER TABLE colors MODIFY COLUMN master VARCHAR(400) NOT NULL DEFAULT '';
ALTER TABLE candidates MODIFY COLUMN master VARCHAR(400) NOT NULL DEFAULT '';
ALTER TABLE builds MODIFY COLUMN meant VARCHAR(400) NOT NULL DEFAULT '';
ALTER TABLE spots MODIFY COLUMN meant VARCHAR(400) NOT NULL DEFAULT '';
ALTER TABLE suggestions MODIFY COLUMN value VARCHAR(400) NOT NULL;
-- Where a value comes from that is no derived one: it decides, a person approved it, or it came with the color.
ALTER TABLE builds ADD COLUMN origin VARCHAR(10) NOT NULL DEFAULT 'approved';
ALTER TABLE spots ADD COLUMN origin VARCHAR(10) NOT NULL DEFAULT 'approved';
-- Who approved the hex of a color that something else decides.
ALTER TABLE colors ADD COLUMN plain_origin VARCHAR(10) NOT NULL DEFAULT '';
ALTER TABLE colors ADD COLUMN plain_by BIGINT NULL;
ALTER TABLE colors ADD COLUMN plain_name VARCHAR(120) NOT NULL DEFAULT '';
ALTER TABLE colors ADD COLUMN plain_at DATETIME(3) NULL;
-- The screen value that was given with a candidate, as it decides or stands beside what does.
ALTER TABLE candidates ADD COLUMN screen VARCHAR(200) NOT NULL DEFAULT '';
UPDATE candidates SET screen = CASE WHEN master = '' THEN hex WHEN master LIKE 'screen %' THEN SUBSTRING(master, 8) ELSE '' END WHERE screen = '';
-- Which kind of value decides where several are given; empty for the one that was written first.
ALTER TABLE houses ADD COLUMN decides VARCHAR(10) NOT NULL DEFAULT '';
-- What was computed is kept for every master: under the hex where that decides, else under its hash.
ALTER TABLE computed MODIFY COLUMN hex VARCHAR(41) CHARACTER SET ascii COLLATE ascii_bin NOT NULL;
