-- +goose Up
-- What people say to each other about a color that was found in a file, and who is to see to it. A run in which it is found no more settles it.
CREATE TABLE remarks (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  project_id BIGINT UNSIGNED NOT NULL,
  path VARCHAR(1000) NOT NULL,
  color VARCHAR(200) NOT NULL, -- its key in reports
  text VARCHAR(1000) NOT NULL,
  by_user BIGINT UNSIGNED NULL,
  by_name VARCHAR(120) NOT NULL,
  at DATETIME(3) NOT NULL,
  for_user BIGINT UNSIGNED NULL, -- who is to see to it
  for_name VARCHAR(120) NOT NULL DEFAULT '',
  settled_run INT NOT NULL DEFAULT 0, -- the number of the run in which it was gone
  settled_at DATETIME(3) NULL,
  KEY remarks_project (project_id, id),
  CONSTRAINT remarks_project FOREIGN KEY (project_id) REFERENCES projects (id) ON DELETE CASCADE
);
