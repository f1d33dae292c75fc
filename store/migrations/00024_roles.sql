-- +goose Up
-- Roles are words of a house's own.
ALTER TABLE colors MODIFY role VARCHAR(40) NOT NULL;

-- +goose Down
UPDATE colors SET role = LEFT(role, 16);
ALTER TABLE colors MODIFY role VARCHAR(16) NOT NULL;
