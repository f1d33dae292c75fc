-- +goose Up
-- Where nothing was judged there is no score; what may be a color and could not be determined is counted by itself.
ALTER TABLE audits MODIFY score DOUBLE NULL,
  ADD COLUMN unjudged INT NOT NULL DEFAULT 0;
