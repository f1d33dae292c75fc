-- +goose Up
-- Ways back from changes of many things at once: where what the house was lies, how far its changes had come then, and what came in beside.
CREATE TABLE ways_back (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id BIGINT UNSIGNED NOT NULL,
  by_user BIGINT UNSIGNED NULL,
  by_name VARCHAR(120) NOT NULL,
  at DATETIME(3) NOT NULL,
  turn BIGINT NOT NULL,
  blob_key VARCHAR(190) NOT NULL,
  added MEDIUMTEXT NOT NULL, -- JSON: numbers of projects, excuses and plans
  gone_at DATETIME(3) NULL, -- when somebody went it
  KEY ways_back_house (house_id, id),
  CONSTRAINT ways_back_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE
);

-- Files that are needed on the way back, and that may be named nowhere else meanwhile.
CREATE TABLE way_files (
  way_id BIGINT UNSIGNED NOT NULL,
  blob_key VARCHAR(190) NOT NULL,
  PRIMARY KEY (way_id, blob_key),
  KEY way_files_blob (blob_key),
  CONSTRAINT way_files_way FOREIGN KEY (way_id) REFERENCES ways_back (id) ON DELETE CASCADE
);
