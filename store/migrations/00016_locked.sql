-- +goose Up
-- What was packed of an edition once stays as it is, whatever later versions pack. packing_key is the checksum of what was asked for: the name
-- of the packing, with what is in it where it is a kit.
CREATE TABLE packed_files (
  set_id BIGINT UNSIGNED NOT NULL,
  number INT NOT NULL,
  packing_key CHAR(64) NOT NULL,
  house_id BIGINT UNSIGNED NOT NULL,
  packing VARCHAR(32) NOT NULL,
  file_name VARCHAR(600) NOT NULL,
  blob_key VARCHAR(190) NOT NULL,
  made_at DATETIME(3) NOT NULL,
  PRIMARY KEY (set_id, number, packing_key),
  KEY packed_files_blob (blob_key),
  CONSTRAINT packed_files_edition FOREIGN KEY (set_id, number) REFERENCES editions (set_id, number) ON DELETE CASCADE
);

-- Who has shown that the mailbox is theirs, and when. Secrets are encrypted with a key that is not in the database.
ALTER TABLE users ADD COLUMN proved_at DATETIME(3) NULL,
  MODIFY COLUMN totp VARCHAR(255) NOT NULL DEFAULT '',
  MODIFY COLUMN totp_new VARCHAR(255) NOT NULL DEFAULT '';
ALTER TABLE sessions MODIFY COLUMN via VARCHAR(32) NOT NULL; -- password, provider, passkey, or both
ALTER TABLE tickets ADD COLUMN mailed BOOLEAN NOT NULL DEFAULT FALSE; -- it went to the mailbox and nowhere else

-- An access token is for one house and one purpose. Those of somebody who is in one house are for that; others of before are for all of theirs
-- (NULL) until they end.
ALTER TABLE access_tokens ADD COLUMN house_id BIGINT UNSIGNED NULL,
  ADD COLUMN purpose VARCHAR(16) NOT NULL DEFAULT 'everything', -- read, audit, send or everything
  ADD CONSTRAINT access_tokens_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE;
UPDATE access_tokens t SET t.house_id = (SELECT MIN(m.house_id) FROM members m WHERE m.user_id = t.user_id)
  WHERE t.house_id IS NULL AND (SELECT COUNT(*) FROM members m WHERE m.user_id = t.user_id) = 1;

-- Wrong passwords fill a vessel that runs dry at an even pace; a try is in the way of others until it is known what it was.
DELETE FROM sign_in_tries;
CREATE TABLE sign_in_pending (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  who CHAR(64) NOT NULL,
  at DATETIME(3) NOT NULL,
  KEY sign_in_pending_who (who, at),
  KEY sign_in_pending_at (at)
);

-- Passkeys (Web Authentication), and what is between the two halves of using one.
CREATE TABLE passkeys (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  user_id BIGINT UNSIGNED NOT NULL,
  credential_hash CHAR(64) NOT NULL,
  credential TEXT NOT NULL, -- JSON: its id, public key, counter
  name VARCHAR(120) NOT NULL,
  created_at DATETIME(3) NOT NULL,
  used_at DATETIME(3) NULL,
  UNIQUE KEY passkeys_credential (credential_hash),
  CONSTRAINT passkeys_user FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE CASCADE
);
CREATE TABLE ceremonies (
  id_hash CHAR(64) NOT NULL PRIMARY KEY,
  data TEXT NOT NULL, -- JSON: the challenge and whom it is for
  expires_at DATETIME(3) NOT NULL
);

-- The trail: how long a house keeps it, in days, 0 for good; what happens again and again is one row that is counted; each row is sealed with the
-- one before it in its chain, which is that of its house, or 0 for what concerns people only.
ALTER TABLE houses ADD COLUMN trail_days INT NOT NULL DEFAULT 0;
ALTER TABLE trail ADD COLUMN times INT NOT NULL DEFAULT 1,
  ADD COLUMN once CHAR(64) NULL,
  ADD COLUMN seal CHAR(64) NOT NULL DEFAULT '',
  ADD UNIQUE KEY trail_once (once);
CREATE TABLE trail_chains (
  chain BIGINT UNSIGNED NOT NULL PRIMARY KEY,
  sealed_to BIGINT UNSIGNED NOT NULL, -- the last row that is sealed
  seal CHAR(64) NOT NULL, -- of that row
  gone_to BIGINT UNSIGNED NOT NULL, -- the last row that went because its time was over
  gone_seal CHAR(64) NOT NULL, -- of that row
  gone_mac CHAR(64) NOT NULL -- of these two and the head, so that nobody moves them
);
