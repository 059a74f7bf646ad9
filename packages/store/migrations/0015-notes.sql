-- What people note on frames; it stands until somebody closes it.

CREATE TABLE notes (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  shot_id BIGINT UNSIGNED NOT NULL,
  -- Pass, frames, rectangle and text.
  body JSON NOT NULL,
  person VARCHAR(200) NOT NULL,
  created_at DATETIME(3) NOT NULL,
  actor VARCHAR(200) NOT NULL,
  closed_at DATETIME(3) NULL,
  closed_by VARCHAR(200) NULL,
  KEY by_shot (shot_id, id),
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
