-- +goose Up
-- People: second factors, sessions that can be told apart, browsers that are known, access tokens, letters that are good once, and how often
-- somebody tried. Houses: their settings and their end. The trail of all that.
ALTER TABLE users ADD COLUMN totp VARCHAR(64) NOT NULL DEFAULT '', -- secret of the second factor, base32; empty for none
  ADD COLUMN totp_new VARCHAR(64) NOT NULL DEFAULT '', -- the same before it is confirmed with a code
  ADD COLUMN totp_step BIGINT NOT NULL DEFAULT 0, -- the last step of time whose code was taken: each counts once
  ADD COLUMN subject VARCHAR(190) NULL, -- who this is at the sign-in provider
  ADD UNIQUE KEY users_subject (subject);

CREATE TABLE recovery_codes (
  user_id BIGINT UNSIGNED NOT NULL,
  code_hash CHAR(64) NOT NULL,
  PRIMARY KEY (user_id, code_hash),
  CONSTRAINT recovery_codes_user FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE CASCADE
);

DELETE FROM sessions; -- everybody signs in once more
ALTER TABLE sessions ADD COLUMN id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT UNIQUE,
  ADD COLUMN created_at DATETIME(3) NOT NULL,
  ADD COLUMN seen_at DATETIME(3) NOT NULL,
  ADD COLUMN address VARCHAR(64) NOT NULL,
  ADD COLUMN agent VARCHAR(120) NOT NULL,
  ADD COLUMN via VARCHAR(16) NOT NULL; -- password or provider

CREATE TABLE devices (
  token_hash CHAR(64) NOT NULL PRIMARY KEY,
  user_id BIGINT UNSIGNED NOT NULL,
  seen_at DATETIME(3) NOT NULL,
  CONSTRAINT devices_user FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE CASCADE
);

CREATE TABLE access_tokens (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  user_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(120) NOT NULL,
  token_hash CHAR(64) NOT NULL,
  role VARCHAR(16) NOT NULL, -- it may no more than this, whatever the person may
  created_at DATETIME(3) NOT NULL,
  expires_at DATETIME(3) NOT NULL,
  used_at DATETIME(3) NULL,
  used_from VARCHAR(64) NOT NULL DEFAULT '',
  UNIQUE KEY access_tokens_hash (token_hash),
  CONSTRAINT access_tokens_user FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE CASCADE
);

-- Links that are good once: an invitation, a new password, a new address.
CREATE TABLE tickets (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  kind VARCHAR(16) NOT NULL,
  token_hash CHAR(64) NOT NULL,
  user_id BIGINT UNSIGNED NULL,
  house_id BIGINT UNSIGNED NULL,
  email VARCHAR(190) NOT NULL,
  role VARCHAR(16) NOT NULL DEFAULT '',
  by_user BIGINT UNSIGNED NULL,
  by_name VARCHAR(120) NOT NULL,
  created_at DATETIME(3) NOT NULL,
  expires_at DATETIME(3) NOT NULL,
  UNIQUE KEY tickets_hash (token_hash),
  CONSTRAINT tickets_user FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE CASCADE,
  CONSTRAINT tickets_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE,
  CONSTRAINT tickets_by FOREIGN KEY (by_user) REFERENCES users (id) ON DELETE SET NULL
);

-- How often somebody tried to sign in, for an account, an address, a browser and all together; it halves as time passes.
DROP TABLE sign_in_failures;
CREATE TABLE sign_in_tries (
  who CHAR(64) NOT NULL PRIMARY KEY,
  tries DOUBLE NOT NULL,
  last_at DATETIME(3) NOT NULL
);

ALTER TABLE houses ADD COLUMN inviters VARCHAR(16) NOT NULL DEFAULT 'keeper', -- the least role that may invite
  ADD COLUMN second_factor BOOLEAN NOT NULL DEFAULT FALSE, -- nobody enters without one
  ADD COLUMN notations VARCHAR(60) NOT NULL DEFAULT '', -- that are offered first: "0 1 0" of hex, rgb and cmyk
  ADD COLUMN greeting VARCHAR(2000) NOT NULL DEFAULT '', -- what recipients read first
  ADD COLUMN ends_at DATETIME(3) NULL; -- when a house that was given up is deleted

CREATE TABLE house_marks (
  house_id BIGINT UNSIGNED NOT NULL PRIMARY KEY,
  kind VARCHAR(32) NOT NULL, -- image/png
  data LONGBLOB NOT NULL,
  changed_at DATETIME(3) NOT NULL,
  CONSTRAINT house_marks_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE
);

-- Whoever changes a house writes here first: in a cluster, locks are each node's own, and writing one row is what two nodes notice of each
-- other.
CREATE TABLE house_turns (
  house_id BIGINT UNSIGNED NOT NULL PRIMARY KEY,
  turn BIGINT UNSIGNED NOT NULL
);

-- The trail is not part of a backup, and nothing in the program changes a row of it but to say how it ended.
CREATE TABLE trail (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id BIGINT UNSIGNED NULL, -- NULL for what concerns a person only
  at DATETIME(3) NOT NULL,
  user_id BIGINT UNSIGNED NULL,
  by_name VARCHAR(120) NOT NULL, -- as it was then
  via VARCHAR(120) NOT NULL, -- session, token and its name, link, command line
  address VARCHAR(64) NOT NULL,
  request VARCHAR(40) NOT NULL,
  what VARCHAR(60) NOT NULL, -- the operation of the contract, or sign-in and the like
  about VARCHAR(190) NOT NULL, -- what it was done to, in words
  before_state MEDIUMTEXT NOT NULL, -- JSON: what was different of it before
  after_state MEDIUMTEXT NOT NULL, -- JSON: what is different of it now, or what was asked for
  outcome INT NOT NULL, -- the status of the answer; 0 while it is not known
  KEY trail_house (house_id, id),
  KEY trail_user (user_id, id),
  KEY trail_at (at),
  CONSTRAINT trail_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE
);
