-- +goose Up
-- A project is files that are audited together under one name, run after run. removed is 0, or the project's own id, so that its name is free.
CREATE TABLE projects (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(200) NOT NULL,
  name_key VARCHAR(200) NOT NULL,
  by_user BIGINT UNSIGNED NULL,
  by_name VARCHAR(120) NOT NULL,
  created_at DATETIME(3) NOT NULL,
  removed BIGINT UNSIGNED NOT NULL DEFAULT 0,
  UNIQUE KEY projects_name (house_id, name_key, removed),
  CONSTRAINT projects_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE
);

-- The files that the next run of a project reads, by their path in it.
CREATE TABLE project_files (
  project_id BIGINT UNSIGNED NOT NULL,
  path_key CHAR(64) NOT NULL, -- hash of the path, which may be too long for a key
  path VARCHAR(500) NOT NULL,
  blob_key VARCHAR(190) NOT NULL,
  size BIGINT NOT NULL,
  added_at DATETIME(3) NOT NULL,
  PRIMARY KEY (project_id, path_key),
  KEY project_files_blob (blob_key),
  CONSTRAINT project_files_project FOREIGN KEY (project_id) REFERENCES projects (id) ON DELETE CASCADE
);

CREATE TABLE runs (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id BIGINT UNSIGNED NOT NULL,
  project_id BIGINT UNSIGNED NOT NULL,
  number INT NOT NULL,
  by_user BIGINT UNSIGNED NULL,
  by_name VARCHAR(120) NOT NULL,
  at DATETIME(3) NOT NULL,
  tolerance DOUBLE NOT NULL,
  files INT NOT NULL,
  uses INT NOT NULL,
  findings INT NOT NULL,
  unjudged INT NOT NULL,
  score DOUBLE NULL,
  unread TEXT NOT NULL DEFAULT '', -- JSON: files that could not be read, and why
  UNIQUE KEY runs_number (project_id, number),
  KEY runs_house (house_id, id),
  CONSTRAINT runs_project FOREIGN KEY (project_id) REFERENCES projects (id) ON DELETE CASCADE
);

ALTER TABLE audits ADD COLUMN project_id BIGINT UNSIGNED NULL,
  ADD COLUMN run_id BIGINT UNSIGNED NULL,
  ADD COLUMN path VARCHAR(500) NOT NULL DEFAULT '',
  ADD KEY audits_run (run_id),
  ADD CONSTRAINT audits_run FOREIGN KEY (run_id) REFERENCES runs (id) ON DELETE CASCADE;

-- What differs on purpose. Empty places cover everything; ended ones stay on record.
CREATE TABLE excuses (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id BIGINT UNSIGNED NOT NULL,
  project_id BIGINT UNSIGNED NULL,
  color VARCHAR(190) NOT NULL,
  path VARCHAR(500) NOT NULL DEFAULT '',
  place VARCHAR(600) NOT NULL DEFAULT '',
  reason VARCHAR(500) NOT NULL,
  by_user BIGINT UNSIGNED NULL,
  by_name VARCHAR(120) NOT NULL,
  at DATETIME(3) NOT NULL,
  until_day DATETIME(3) NULL, -- the last day, at its beginning
  ended_at DATETIME(3) NULL,
  ended_by VARCHAR(120) NOT NULL DEFAULT '',
  KEY excuses_house (house_id, id),
  CONSTRAINT excuses_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE,
  CONSTRAINT excuses_project FOREIGN KEY (project_id) REFERENCES projects (id) ON DELETE CASCADE
);

-- Saved repaint plans: which found color becomes which library color.
CREATE TABLE plans (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(120) NOT NULL,
  name_key VARCHAR(120) NOT NULL,
  steps MEDIUMTEXT NOT NULL, -- JSON
  version INT NOT NULL DEFAULT 1,
  by_name VARCHAR(120) NOT NULL,
  changed_at DATETIME(3) NOT NULL,
  UNIQUE KEY plans_name (house_id, name_key),
  CONSTRAINT plans_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE
);

-- Repainted files: what was written, and what is told of it.
CREATE TABLE repaints (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id BIGINT UNSIGNED NOT NULL,
  project_id BIGINT UNSIGNED NOT NULL,
  run_id BIGINT UNSIGNED NOT NULL,
  by_user BIGINT UNSIGNED NULL,
  by_name VARCHAR(120) NOT NULL,
  at DATETIME(3) NOT NULL,
  name VARCHAR(250) NOT NULL, -- of the file to download
  blob_key VARCHAR(190) NOT NULL, -- empty for a dry run
  report_key VARCHAR(190) NOT NULL,
  changed INT NOT NULL,
  left_over INT NOT NULL,
  score_before DOUBLE NULL,
  score_after DOUBLE NULL,
  KEY repaints_house (house_id, id),
  KEY repaints_blob (blob_key),
  KEY repaints_report (report_key),
  CONSTRAINT repaints_run FOREIGN KEY (run_id) REFERENCES runs (id) ON DELETE CASCADE
);
