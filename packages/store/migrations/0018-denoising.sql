-- Runs of the filters: tests of some strengths, and whole ranges. Engines share the parts of a run, each
-- taking the next one that nobody works on.

CREATE TABLE denoise_runs (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  shot_id BIGINT UNSIGNED NOT NULL,
  purpose ENUM('test', 'range') NOT NULL,
  -- Pass, strengths, frames that take part, range, region, and what the result is called.
  request JSON NOT NULL,
  -- Null while something is left to do, whether anybody does it or not.
  outcome ENUM('done', 'stopped') NULL,
  created_at DATETIME(3) NOT NULL,
  ended_at DATETIME(3) NULL,
  actor VARCHAR(200) NOT NULL,
  KEY by_shot (shot_id, purpose, id),
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

CREATE TABLE denoise_parts (
  run_id BIGINT UNSIGNED NOT NULL,
  part INT UNSIGNED NOT NULL,
  -- Place in the request's strengths.
  strength INT UNSIGNED NOT NULL,
  -- Frames in range notation.
  frames TEXT NOT NULL,
  frame_count INT UNSIGNED NOT NULL,
  -- The job that took it last; whoever holds that job works on it.
  job_id BIGINT UNSIGNED NULL,
  -- Null until it is done; then what it came to, as JSON.
  figures LONGTEXT NULL,
  PRIMARY KEY (run_id, part),
  FOREIGN KEY (run_id) REFERENCES denoise_runs (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

-- Of a kind and shot one job runs; of a denoising as many as there are seats at it.
ALTER TABLE jobs
  DROP KEY one_runs,
  DROP COLUMN running_key;
ALTER TABLE jobs
  ADD COLUMN running_key VARCHAR(140) CHARACTER SET ascii COLLATE ascii_bin AS
    (IF(state = 'running', CONCAT(shot_id, ' ', kind, IF(kind = 'denoise', CONCAT(' ', subject), '')), NULL)) VIRTUAL,
  ADD UNIQUE KEY one_runs (running_key);
