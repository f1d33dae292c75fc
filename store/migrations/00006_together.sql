-- +goose Up
-- A recipient belongs to the sets that it gets: those that it got so far, and all of its house if it got none yet.
CREATE TABLE set_recipients (
  set_id BIGINT UNSIGNED NOT NULL,
  recipient_id BIGINT UNSIGNED NOT NULL,
  PRIMARY KEY (set_id, recipient_id),
  CONSTRAINT set_recipients_set FOREIGN KEY (set_id) REFERENCES swatch_sets (id) ON DELETE CASCADE,
  CONSTRAINT set_recipients_recipient FOREIGN KEY (recipient_id) REFERENCES recipients (id) ON DELETE CASCADE
);
DELETE FROM set_recipients; -- so that an upgrade that was cut off can begin here again
INSERT INTO set_recipients SELECT DISTINCT set_id, recipient_id FROM deliveries;
INSERT INTO set_recipients SELECT s.id, r.id FROM recipients r JOIN swatch_sets s ON s.house_id = r.house_id
  WHERE NOT EXISTS (SELECT 1 FROM deliveries d WHERE d.recipient_id = r.id);

-- Changes that somebody who may not make them suggests, until a keeper answers.
CREATE TABLE suggestions (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id BIGINT UNSIGNED NOT NULL,
  color_id BIGINT UNSIGNED NOT NULL,
  by_user BIGINT UNSIGNED NULL,
  by_name VARCHAR(120) NOT NULL,
  at DATETIME(3) NOT NULL,
  name VARCHAR(120) NOT NULL, -- empty: as it is, here and below
  value VARCHAR(7) NOT NULL,
  rule TEXT NOT NULL,
  note TEXT NOT NULL,
  KEY suggestions_house (house_id, id),
  CONSTRAINT suggestions_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE,
  CONSTRAINT suggestions_color FOREIGN KEY (color_id) REFERENCES colors (id) ON DELETE CASCADE,
  CONSTRAINT suggestions_by FOREIGN KEY (by_user) REFERENCES users (id) ON DELETE SET NULL
);
