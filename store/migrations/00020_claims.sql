-- +goose Up
-- Requests that carry a key so that they are done once, however often they are sent: how far each came, and what it was answered.
CREATE TABLE claims (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id BIGINT UNSIGNED NOT NULL,
  user_id BIGINT UNSIGNED NOT NULL,
  key_hash CHAR(64) NOT NULL,
  request VARCHAR(250) NOT NULL, -- method and path
  body_hash CHAR(64) NOT NULL,
  owner CHAR(16) NOT NULL, -- the request that does it
  begun_at DATETIME(3) NOT NULL,
  marks INT NOT NULL DEFAULT 0, -- transactions of it that were kept
  status INT NOT NULL DEFAULT 0, -- of the answer; 0 while it is not known
  media_type VARCHAR(120) NOT NULL DEFAULT '',
  answer MEDIUMTEXT NULL, -- encrypted; absent where it is not kept
  UNIQUE KEY claims_key (user_id, house_id, key_hash),
  KEY claims_begun (begun_at),
  CONSTRAINT claims_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE,
  CONSTRAINT claims_user FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE CASCADE
);
