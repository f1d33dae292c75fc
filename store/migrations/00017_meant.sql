-- +goose Up
-- Which classes of inks the nearest ink of a color is taken from, one a line; empty for all.
ALTER TABLE houses ADD COLUMN ink_classes VARCHAR(500) NOT NULL DEFAULT 'solid';

-- What names a stored file is looked up for each of them every hour.
CREATE INDEX audits_blob ON audits (blob_key);
CREATE INDEX audits_report ON audits (report_key);
CREATE INDEX jobs_blob ON jobs (blob_key);
