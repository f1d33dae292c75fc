-- +goose Up
-- What a report was worked out from, so that a file is not judged again where neither it nor what it is judged by changed; and projects that are judged
-- again by themselves once the library moved.
ALTER TABLE houses ADD COLUMN again BOOLEAN NOT NULL DEFAULT TRUE;
ALTER TABLE projects ADD COLUMN checked_at DATETIME(3) NULL;
ALTER TABLE runs ADD COLUMN same INT NOT NULL DEFAULT 0;
ALTER TABLE audits ADD COLUMN basis VARCHAR(80) NOT NULL DEFAULT '';
CREATE INDEX color_events_at ON color_events (at);
