-- Shots that were opened from a package: where it lies, and what was found when it was verified last.
CREATE TABLE arrivals (
  shot_id BIGINT UNSIGNED NOT NULL PRIMARY KEY,
  root VARCHAR(32) NOT NULL,
  folder VARCHAR(2048) NOT NULL,
  receipt LONGTEXT NULL,
  opened_at DATETIME(3) NOT NULL,
  actor VARCHAR(200) NOT NULL,
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
