-- +goose Up
-- Two houses of one name could not be told apart; those that there are get their number behind it.
ALTER TABLE houses ADD COLUMN name_key VARCHAR(250) NOT NULL DEFAULT '';
UPDATE houses SET name_key = LOWER(TRIM(name));
UPDATE houses h JOIN houses o ON o.name_key = h.name_key AND o.id < h.id
  SET h.name = CONCAT(LEFT(h.name, 100), ' ', h.id), h.name_key = CONCAT(LEFT(h.name_key, 100), ' ', h.id);
ALTER TABLE houses ADD UNIQUE KEY houses_name (name_key);

-- The ground that a color must stay legible on has one name everywhere.
ALTER TABLE colors DROP FOREIGN KEY colors_partner;
ALTER TABLE colors RENAME COLUMN partner_id TO ground_id, RENAME COLUMN partner_ratio TO ground_ratio;
ALTER TABLE colors ADD CONSTRAINT colors_ground FOREIGN KEY (ground_id) REFERENCES colors (id) ON DELETE SET NULL;

-- Who did something is an account, with the name that it had then.
ALTER TABLE builds ADD COLUMN by_user BIGINT UNSIGNED NULL AFTER k,
  ADD CONSTRAINT builds_by FOREIGN KEY (by_user) REFERENCES users (id) ON DELETE SET NULL;
ALTER TABLE spots ADD COLUMN by_user BIGINT UNSIGNED NULL AFTER code,
  ADD CONSTRAINT spots_by FOREIGN KEY (by_user) REFERENCES users (id) ON DELETE SET NULL;
ALTER TABLE editions ADD COLUMN by_user BIGINT UNSIGNED NULL AFTER fixed_at,
  ADD CONSTRAINT editions_by FOREIGN KEY (by_user) REFERENCES users (id) ON DELETE SET NULL;
ALTER TABLE audits ADD COLUMN by_user BIGINT UNSIGNED NULL AFTER house_id,
  ADD CONSTRAINT audits_by FOREIGN KEY (by_user) REFERENCES users (id) ON DELETE SET NULL;
ALTER TABLE color_events ADD COLUMN by_user BIGINT UNSIGNED NULL AFTER at,
  ADD COLUMN source VARCHAR(200) NOT NULL DEFAULT '', -- "a backup of Our House" for what came with a file
  MODIFY COLUMN state MEDIUMTEXT NOT NULL DEFAULT '',
  ADD CONSTRAINT color_events_by FOREIGN KEY (by_user) REFERENCES users (id) ON DELETE SET NULL;

-- A set that has editions stays, whoever deletes it at the same moment.
ALTER TABLE editions DROP FOREIGN KEY editions_set;
ALTER TABLE editions ADD CONSTRAINT editions_set FOREIGN KEY (set_id) REFERENCES swatch_sets (id) ON DELETE RESTRICT;

-- Which color an edition holds, at which value, without its content being read. The color may be gone meanwhile.
CREATE TABLE edition_colors (
  set_id BIGINT UNSIGNED NOT NULL,
  number INT NOT NULL,
  position INT NOT NULL,
  color_id BIGINT UNSIGNED NOT NULL,
  hex CHAR(7) NOT NULL,
  PRIMARY KEY (set_id, number, position),
  KEY edition_colors_color (color_id, set_id, number),
  CONSTRAINT edition_colors_edition FOREIGN KEY (set_id, number) REFERENCES editions (set_id, number) ON DELETE CASCADE
);
DELETE FROM edition_colors; -- so that an upgrade that was cut off can begin here again
INSERT INTO edition_colors
  SELECT e.set_id, e.number, i.place - 1, i.id, CONCAT('#', LPAD(HEX(c.r), 2, '0'), LPAD(HEX(c.g), 2, '0'), LPAD(HEX(c.b), 2, '0'))
  FROM editions e
  JOIN JSON_TABLE(e.content, '$.IDs[*]' COLUMNS (place FOR ORDINALITY, id BIGINT UNSIGNED PATH '$')) i
  JOIN JSON_TABLE(e.content, '$.Edition.Colors[*]' COLUMNS (place FOR ORDINALITY, r INT PATH '$.RGB.R', g INT PATH '$.RGB.G', b INT PATH '$.RGB.B')) c
    ON c.place = i.place;

-- Findings as rows; the report lies with the files, and here only until the next start for audits of before.
CREATE TABLE audit_colors (
  audit_id BIGINT UNSIGNED NOT NULL,
  position INT NOT NULL,
  house_id BIGINT UNSIGNED NOT NULL,
  hex CHAR(7) NOT NULL,
  verdict VARCHAR(12) NOT NULL,
  uses INT NOT NULL,
  places INT NOT NULL,
  PRIMARY KEY (audit_id, position),
  KEY audit_colors_hex (house_id, hex, audit_id),
  CONSTRAINT audit_colors_audit FOREIGN KEY (audit_id) REFERENCES audits (id) ON DELETE CASCADE,
  CONSTRAINT audit_colors_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE
);
DELETE FROM audit_colors;
INSERT INTO audit_colors
  SELECT a.id, c.place - 1, a.house_id, c.hex, c.verdict, c.uses, JSON_LENGTH(a.report, CONCAT('$.colors[', c.place - 1, '].places'))
  FROM audits a
  JOIN JSON_TABLE(a.report, '$.colors[*]' COLUMNS (place FOR ORDINALITY, hex CHAR(7) PATH '$.hex', verdict VARCHAR(12) PATH '$.verdict', uses INT PATH '$.count')) c;
ALTER TABLE audits ADD COLUMN report_key VARCHAR(190) NOT NULL DEFAULT '' AFTER blob_key,
  MODIFY COLUMN report LONGTEXT NOT NULL DEFAULT '';

-- Every stored file, with what proves that it is still what was stored. A file that no audit and no job names is removed.
CREATE TABLE files (
  blob_key VARCHAR(190) NOT NULL PRIMARY KEY,
  house_id BIGINT UNSIGNED NULL,
  sha256 CHAR(64) NOT NULL,
  size BIGINT NOT NULL,
  added_at DATETIME(3) NOT NULL,
  CONSTRAINT files_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE SET NULL
);

-- Long work: whoever claims a row holds a lease on it and renews it; a row whose lease ran out is claimed again.
CREATE TABLE jobs (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id BIGINT UNSIGNED NULL,
  by_user BIGINT UNSIGNED NULL,
  by_name VARCHAR(120) NOT NULL,
  kind VARCHAR(32) NOT NULL,
  payload MEDIUMTEXT NOT NULL,
  blob_key VARCHAR(190) NOT NULL, -- the file that it works on, or empty
  state VARCHAR(10) NOT NULL, -- waiting, running, done, failed or given-up
  stage VARCHAR(250) NOT NULL, -- in the user's terms
  share DOUBLE NOT NULL, -- 0 to 1
  result MEDIUMTEXT NOT NULL,
  problem TEXT NOT NULL,
  attempts INT NOT NULL,
  worker CHAR(43) NOT NULL,
  run_at DATETIME(3) NOT NULL,
  lease_until DATETIME(3) NULL,
  created_at DATETIME(3) NOT NULL,
  ended_at DATETIME(3) NULL,
  KEY jobs_due (state, run_at, id),
  KEY jobs_house (house_id, id),
  CONSTRAINT jobs_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE,
  CONSTRAINT jobs_by FOREIGN KEY (by_user) REFERENCES users (id) ON DELETE SET NULL
);

-- What was computed for a master value: subject is the checksum of the press profile or ink book and of the way of computing.
CREATE TABLE computed (
  subject CHAR(64) NOT NULL,
  hex CHAR(7) NOT NULL,
  answer VARBINARY(500) NOT NULL,
  PRIMARY KEY (subject, hex)
);

-- Links that let somebody without an account see one thing of a house: a board, a pickup.
CREATE TABLE links (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id BIGINT UNSIGNED NOT NULL,
  kind VARCHAR(16) NOT NULL,
  thing_id BIGINT UNSIGNED NOT NULL,
  token_hash CHAR(64) NOT NULL,
  by_user BIGINT UNSIGNED NULL,
  by_name VARCHAR(120) NOT NULL,
  created_at DATETIME(3) NOT NULL,
  expires_at DATETIME(3) NULL,
  revoked_at DATETIME(3) NULL,
  UNIQUE KEY links_token (token_hash),
  KEY links_thing (house_id, kind, thing_id),
  CONSTRAINT links_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE,
  CONSTRAINT links_by FOREIGN KEY (by_user) REFERENCES users (id) ON DELETE SET NULL
);

-- Colors that were admitted by mistake and removed, whole, until nobody will want them back.
CREATE TABLE removed_colors (
  house_id BIGINT UNSIGNED NOT NULL,
  color_id BIGINT UNSIGNED NOT NULL,
  content LONGTEXT NOT NULL,
  by_user BIGINT UNSIGNED NULL,
  by_name VARCHAR(120) NOT NULL,
  removed_at DATETIME(3) NOT NULL,
  PRIMARY KEY (house_id, color_id),
  CONSTRAINT removed_colors_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE,
  CONSTRAINT removed_colors_by FOREIGN KEY (by_user) REFERENCES users (id) ON DELETE SET NULL
);
