-- +goose Up
-- For whoever runs the server: who that is, what was dumped in the nights, and which instances there are.
ALTER TABLE users ADD COLUMN runs BOOLEAN NOT NULL DEFAULT FALSE;

CREATE TABLE dumps (
  id        BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  name      VARCHAR(200) NOT NULL, -- in the place for dumps
  begun_at  DATETIME(3) NOT NULL,
  ended_at  DATETIME(3) NOT NULL,
  size      BIGINT NOT NULL DEFAULT 0, -- bytes
  row_count BIGINT NOT NULL DEFAULT 0,
  files     BIGINT NOT NULL DEFAULT 0,
  missing   BIGINT NOT NULL DEFAULT 0, -- files that were named and not there
  problem   VARCHAR(1000) NOT NULL DEFAULT '', -- why there is none
  tried_at  DATETIME(3) NULL, -- when it was last restored into a scratch database
  tried     VARCHAR(1000) NOT NULL DEFAULT '', -- what went wrong then
  INDEX dumps_begun (begun_at)
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

CREATE TABLE instances (
  name       CHAR(16) NOT NULL PRIMARY KEY,
  host       VARCHAR(250) NOT NULL,
  version    VARCHAR(100) NOT NULL,
  started_at DATETIME(3) NOT NULL,
  heard_at   DATETIME(3) NOT NULL
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
