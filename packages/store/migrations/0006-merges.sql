-- Merges: several folders become one sequence. What was previewed is what is done; every step is
-- written down before it is taken, so that it can be gone on with and taken back.

ALTER TABLE jobs MODIFY kind ENUM('count', 'package', 'measure', 'render', 'merge') NOT NULL;

CREATE TABLE merges (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  shot_id BIGINT UNSIGNED NOT NULL,
  -- Root and folder of each source, and the rule and the files chosen by hand.
  request JSON NOT NULL,
  way ENUM('copy', 'move', 'link') NOT NULL,
  -- Gaps and strays, as the preview found them; null before it.
  findings JSON NULL,
  state ENUM('previewing', 'previewed', 'running', 'done', 'undoing', 'undone') NOT NULL DEFAULT 'previewing',
  created_at DATETIME(3) NOT NULL,
  actor VARCHAR(200) NOT NULL,
  KEY by_shot (shot_id, id),
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

CREATE TABLE merge_steps (
  merge_id BIGINT UNSIGNED NOT NULL,
  position INT UNSIGNED NOT NULL,
  body JSON NOT NULL,
  state ENUM('planned', 'begun', 'done', 'undone') NOT NULL DEFAULT 'planned',
  -- Of the file that came, known as soon as the step has begun.
  sha256 CHAR(64) CHARACTER SET ascii NULL,
  PRIMARY KEY (merge_id, position),
  KEY by_state (merge_id, state),
  FOREIGN KEY (merge_id) REFERENCES merges (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
