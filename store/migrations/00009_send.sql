-- +goose Up
-- Sets: what keeps one current, what was given by hand, and sets that were removed. removed is 0, or the set's own id, so that its name is free.
ALTER TABLE swatch_sets ADD COLUMN follows VARCHAR(300) NOT NULL DEFAULT '', -- JSON: role or tag; empty for a set by hand
  ADD COLUMN slots TEXT NOT NULL DEFAULT '',                                  -- JSON: slot of an office theme to color
  ADD COLUMN box_count INT NOT NULL DEFAULT 0,
  ADD COLUMN boxes TEXT NOT NULL DEFAULT '',                                  -- JSON: colors in the order of a video application's boxes
  ADD COLUMN removed BIGINT UNSIGNED NOT NULL DEFAULT 0,
  ADD COLUMN slug VARCHAR(250) NOT NULL DEFAULT '', -- what its files are called at pickups, for good; empty until somebody asks
  DROP INDEX swatch_sets_name,
  ADD UNIQUE KEY swatch_sets_name (house_id, name_key, removed);

-- An edition never changes; that it is withdrawn stands beside it. The note stands in its content too.
ALTER TABLE editions ADD COLUMN note TEXT NOT NULL DEFAULT '',
  ADD COLUMN withdrawn_at DATETIME(3) NULL,
  ADD COLUMN withdrawn_by VARCHAR(120) NOT NULL DEFAULT '',
  ADD COLUMN withdrawn_why TEXT NOT NULL DEFAULT '';

ALTER TABLE recipients ADD COLUMN packings VARCHAR(600) NOT NULL DEFAULT '', -- parted by spaces
  ADD COLUMN ways VARCHAR(60) NOT NULL DEFAULT '',                            -- likewise
  ADD COLUMN email VARCHAR(190) NOT NULL DEFAULT '',
  ADD COLUMN version INT NOT NULL DEFAULT 1,
  ADD COLUMN paused_at DATETIME(3) NULL,
  ADD COLUMN removed BIGINT UNSIGNED NOT NULL DEFAULT 0,
  DROP INDEX recipients_name,
  ADD UNIQUE KEY recipients_name (house_id, name_key, removed);
UPDATE recipients SET packings = IF(kind = 'office', 'deck', 'css'), ways = 'application';

-- once names what is the same receipt when it comes again, as a build's that fetches every hour; NULL for what never is.
ALTER TABLE deliveries ADD COLUMN way VARCHAR(16) NOT NULL DEFAULT 'application',
  ADD COLUMN client VARCHAR(120) NOT NULL DEFAULT '',
  ADD COLUMN times INT NOT NULL DEFAULT 1,
  ADD COLUMN last_at DATETIME(3) NULL,
  ADD COLUMN once CHAR(64) NULL,
  ADD UNIQUE KEY deliveries_once (once);

-- What is mailed to recipients, until it has left or cannot.
CREATE TABLE mails (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id BIGINT UNSIGNED NOT NULL,
  recipient_id BIGINT UNSIGNED NOT NULL,
  set_id BIGINT UNSIGNED NOT NULL,
  number INT NOT NULL,
  delivery_id BIGINT UNSIGNED NOT NULL,
  address VARCHAR(190) NOT NULL,
  subject VARCHAR(250) NOT NULL,
  message_id VARCHAR(190) NOT NULL DEFAULT '',
  state VARCHAR(16) NOT NULL, -- waiting, sent or failed
  attempts INT NOT NULL DEFAULT 0,
  problem TEXT NOT NULL DEFAULT '',
  by_name VARCHAR(120) NOT NULL,
  created_at DATETIME(3) NOT NULL,
  sent_at DATETIME(3) NULL,
  KEY mails_house (house_id, id),
  CONSTRAINT mails_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE,
  CONSTRAINT mails_recipient FOREIGN KEY (recipient_id) REFERENCES recipients (id) ON DELETE CASCADE,
  CONSTRAINT mails_delivery FOREIGN KEY (delivery_id) REFERENCES deliveries (id) ON DELETE CASCADE
);
