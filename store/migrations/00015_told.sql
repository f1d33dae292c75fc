-- +goose Up
-- When it was mailed that an excuse is about to end.
ALTER TABLE excuses ADD COLUMN told_at DATETIME(3) NULL, ADD KEY excuses_until (until_day);
