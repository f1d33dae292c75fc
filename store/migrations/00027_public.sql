-- +goose Up
-- Links for anybody: their addresses are no secrets, so they are kept; how often they were opened and files fetched there. And what a house says first.
ALTER TABLE links ADD COLUMN token VARCHAR(64) NOT NULL DEFAULT '';
ALTER TABLE links ADD COLUMN opened BIGINT NOT NULL DEFAULT 0;
ALTER TABLE links ADD COLUMN fetched BIGINT NOT NULL DEFAULT 0;
ALTER TABLE links ADD COLUMN last_at DATETIME(3) NULL;
ALTER TABLE houses ADD COLUMN sentence VARCHAR(500) NOT NULL DEFAULT '';
