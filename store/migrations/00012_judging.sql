-- +goose Up
-- What a house judges pictures by, and for how many days it keeps runs that are not the last of their project; 0 for good.
ALTER TABLE houses ADD COLUMN pictures DOUBLE NOT NULL DEFAULT 5,
  ADD COLUMN keep_days INT NOT NULL DEFAULT 0;
