-- +goose Up
-- Roles are words of a house's own.
ALTER TABLE colors MODIFY role VARCHAR(40) NOT NULL;
