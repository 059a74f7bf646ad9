-- Merges go the way of every mend: their journals lie with the files, and lead back. What stands for the journal of a merge is
-- the checksum of its plan. Merges of before keep what they have brought; what they had set aside stays for its time.

ALTER TABLE merges ADD COLUMN plan_seen CHAR(64) CHARACTER SET ascii NULL;
UPDATE merges SET state = 'done' WHERE state IN ('running', 'undoing');
ALTER TABLE merges DROP COLUMN let_go_at;
ALTER TABLE merge_steps DROP KEY by_state, DROP COLUMN state, DROP COLUMN sha256, DROP COLUMN aside_sha256;

-- A mend as it was previewed, where that takes an engine: the newest of each shot.
CREATE TABLE mend_previews (
  shot_id BIGINT UNSIGNED NOT NULL PRIMARY KEY,
  -- What was asked for, as JSON.
  wish TEXT NOT NULL,
  -- Stands for the plan.
  seen CHAR(64) CHARACTER SET ascii NOT NULL,
  -- Steps, conflicts, and what is said of them, as JSON.
  plan LONGTEXT NOT NULL,
  made_at DATETIME(3) NOT NULL,
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

-- Frames that somebody wants rendered again, and why.
CREATE TABLE mend_list (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  shot_id BIGINT UNSIGNED NOT NULL,
  -- Empty for all passes.
  pass VARCHAR(200) NOT NULL,
  frames MEDIUMTEXT NOT NULL,
  reason VARCHAR(1000) NOT NULL,
  -- Where it was gathered: a finding's code, or the place in the application.
  origin VARCHAR(100) CHARACTER SET ascii NOT NULL,
  -- What the frames held then, by pass, as JSON: what is rendered since holds something else.
  contents LONGTEXT NOT NULL,
  created_at DATETIME(3) NOT NULL,
  actor VARCHAR(200) NOT NULL,
  -- Taken off the list by hand.
  dropped_at DATETIME(3) NULL,
  KEY by_shot (shot_id, id),
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
