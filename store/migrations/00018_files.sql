-- +goose Up
-- Why a file of a project is not read, empty for one that is; and when one was taken out, so that it can be put back.
ALTER TABLE project_files ADD COLUMN why VARCHAR(300) NOT NULL DEFAULT '', ADD COLUMN dropped_at DATETIME(3) NULL;
