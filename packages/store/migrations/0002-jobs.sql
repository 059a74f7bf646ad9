-- Work for the engines. An engine leases a job, renews the lease while it works, and loses the
-- job to another engine when it stops renewing.

CREATE TABLE jobs (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  kind ENUM('count', 'package') NOT NULL,
  shot_id BIGINT UNSIGNED NOT NULL,
  payload JSON NOT NULL,
  state ENUM('queued', 'running', 'done', 'failed', 'cancelled') NOT NULL DEFAULT 'queued',
  -- Kind and shot while the job is queued or running, else null: one job of a kind a shot.
  active_key VARCHAR(64) CHARACTER SET ascii NULL UNIQUE,
  cancel_requested BOOLEAN NOT NULL DEFAULT FALSE,
  lease_owner CHAR(36) CHARACTER SET ascii NULL,
  lease_until DATETIME(3) NULL,
  attempts INT UNSIGNED NOT NULL DEFAULT 0,
  result JSON NULL,
  error JSON NULL,
  created_at DATETIME(3) NOT NULL,
  started_at DATETIME(3) NULL,
  finished_at DATETIME(3) NULL,
  actor VARCHAR(200) NOT NULL,
  KEY waiting (state, id),
  KEY by_shot (shot_id, id),
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

CREATE TABLE job_progress (
  job_id BIGINT UNSIGNED NOT NULL PRIMARY KEY,
  phase VARCHAR(32) NOT NULL,
  done BIGINT UNSIGNED NOT NULL,
  total BIGINT UNSIGNED NOT NULL,
  bytes_done BIGINT UNSIGNED NOT NULL,
  bytes_total BIGINT UNSIGNED NOT NULL,
  phase_started_at DATETIME(3) NOT NULL,
  updated_at DATETIME(3) NOT NULL,
  FOREIGN KEY (job_id) REFERENCES jobs (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

CREATE TABLE engines (
  id CHAR(36) CHARACTER SET ascii NOT NULL PRIMARY KEY,
  host VARCHAR(200) NOT NULL,
  process_id INT UNSIGNED NOT NULL,
  started_at DATETIME(3) NOT NULL,
  seen_at DATETIME(3) NOT NULL
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
