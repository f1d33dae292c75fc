-- +goose Up
-- Which press and which paper the ledger shows.
ALTER TABLE houses ADD COLUMN shown_press VARCHAR(60) NOT NULL DEFAULT 'coated', -- by its name; one that is gone counts as coated
  ADD COLUMN shown_stock VARCHAR(16) NOT NULL DEFAULT 'coated';
