-- +goose Up
-- Candidates come from more than pasted lines, and stand in an order of their own.
ALTER TABLE candidates
  ADD COLUMN position INT NOT NULL DEFAULT 0,
  ADD COLUMN origin VARCHAR(20) NOT NULL DEFAULT 'paste',
  ADD COLUMN spot VARCHAR(60) NOT NULL DEFAULT '',
  ADD COLUMN lab VARCHAR(60) NOT NULL DEFAULT '';
UPDATE candidates SET position = id;

ALTER TABLE colors
  ADD COLUMN aliases TEXT NOT NULL DEFAULT '',
  ADD COLUMN tags TEXT NOT NULL DEFAULT '',
  ADD COLUMN lab VARCHAR(60) NOT NULL DEFAULT '',
  ADD COLUMN partner_id BIGINT UNSIGNED NULL,
  ADD COLUMN partner_ratio DOUBLE NOT NULL DEFAULT 0,
  ADD CONSTRAINT colors_partner FOREIGN KEY (partner_id) REFERENCES colors (id) ON DELETE SET NULL;

-- The state of a color after each event, so that any of them can be brought back.
ALTER TABLE color_events ADD COLUMN state TEXT NOT NULL DEFAULT '';

-- Tints, shades, tones and steps that are kept with a color; their values follow its master.
CREATE TABLE companions (
  color_id BIGINT UNSIGNED NOT NULL,
  kind VARCHAR(10) NOT NULL,
  amount INT NOT NULL,
  permitted BOOLEAN NOT NULL,
  PRIMARY KEY (color_id, kind, amount),
  CONSTRAINT companions_color FOREIGN KEY (color_id) REFERENCES colors (id) ON DELETE CASCADE
);

-- Palettes that members added to those that ship; private ones are their author's only.
CREATE TABLE starters (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id BIGINT UNSIGNED NOT NULL,
  user_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(120) NOT NULL,
  keywords VARCHAR(500) NOT NULL,
  colors TEXT NOT NULL,
  private BOOLEAN NOT NULL,
  created_at DATETIME(3) NOT NULL,
  KEY starters_house (house_id, id),
  CONSTRAINT starters_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE,
  CONSTRAINT starters_user FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE CASCADE
);

-- What a person liked and took, by the starter's key: "q12" for a shipped one, "h3" for one of the house.
CREATE TABLE starter_marks (
  house_id BIGINT UNSIGNED NOT NULL,
  user_id BIGINT UNSIGNED NOT NULL,
  starter VARCHAR(24) NOT NULL,
  liked BOOLEAN NOT NULL,
  uses INT NOT NULL,
  PRIMARY KEY (house_id, user_id, starter),
  CONSTRAINT starter_marks_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE,
  CONSTRAINT starter_marks_user FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE CASCADE
);

-- Gradients between library colors; a stop is a color and a place in percent.
CREATE TABLE gradients (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  house_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(120) NOT NULL,
  name_key VARCHAR(250) NOT NULL,
  angle DOUBLE NOT NULL,
  space VARCHAR(16) NOT NULL,
  version INT NOT NULL,
  UNIQUE KEY gradients_name (house_id, name_key),
  CONSTRAINT gradients_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE
);

CREATE TABLE gradient_stops (
  gradient_id BIGINT UNSIGNED NOT NULL,
  position INT NOT NULL,
  color_id BIGINT UNSIGNED NOT NULL,
  place DOUBLE NOT NULL,
  PRIMARY KEY (gradient_id, position),
  CONSTRAINT gradient_stops_gradient FOREIGN KEY (gradient_id) REFERENCES gradients (id) ON DELETE CASCADE,
  CONSTRAINT gradient_stops_color FOREIGN KEY (color_id) REFERENCES colors (id) ON DELETE CASCADE
);
