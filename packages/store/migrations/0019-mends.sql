-- What was changed on disk: by whom, when, to which files. The journals that lead back lie with the files.

CREATE TABLE mends (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  shot_id BIGINT UNSIGNED NOT NULL,
  -- Name of its journal in the folder's set-aside.
  journal VARCHAR(64) CHARACTER SET ascii NOT NULL,
  -- What was asked for, in words.
  says VARCHAR(200) NOT NULL,
  -- Every file with what was done to it, as JSON.
  steps LONGTEXT NOT NULL,
  step_count INT UNSIGNED NOT NULL,
  applied_at DATETIME(3) NOT NULL,
  actor VARCHAR(200) NOT NULL,
  undone_at DATETIME(3) NULL,
  undone_by VARCHAR(200) NULL,
  KEY by_shot (shot_id, id),
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
