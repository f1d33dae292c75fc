-- +goose Up
-- The ink book of a house's own supplier; without one the book that ships is used.
CREATE TABLE ink_books (
  house_id BIGINT UNSIGNED NOT NULL PRIMARY KEY,
  name VARCHAR(120) NOT NULL,
  data LONGTEXT NOT NULL,
  by_name VARCHAR(120) NOT NULL,
  added_at DATETIME(3) NOT NULL,
  CONSTRAINT ink_books_house FOREIGN KEY (house_id) REFERENCES houses (id) ON DELETE CASCADE
);
