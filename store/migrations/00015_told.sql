-- +goose Up
-- When it was mailed that an excuse is about to end.
ALTER TABLE excuses ADD COLUMN told_at DATETIME(3) NULL, ADD KEY excuses_until (until_day);

-- +goose Down
ALTER TABLE excuses DROP KEY excuses_until, DROP COLUMN told_at;
