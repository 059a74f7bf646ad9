-- Batches: frames given out to machines, what became of each, and what was said meanwhile.

ALTER TABLE jobs MODIFY kind ENUM('count', 'package', 'measure', 'render') NOT NULL;

CREATE TABLE batches (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  shot_id BIGINT UNSIGNED NOT NULL,
  brief_id BIGINT UNSIGNED NOT NULL,
  -- Name of the render service; null when the folder is only watched.
  service VARCHAR(100) NULL,
  -- The command with the brief's tokens filled in.
  command JSON NOT NULL,
  settings JSON NOT NULL,
  -- What people want of it; the engine brings it about.
  wanted ENUM('run', 'pause', 'stop-now', 'stop-after-frame') NOT NULL DEFAULT 'run',
  -- The shot while the batch goes on, else null: one at a time.
  active_shot BIGINT UNSIGNED NULL UNIQUE,
  outcome ENUM('done', 'stopped', 'failed') NULL,
  created_at DATETIME(3) NOT NULL,
  ended_at DATETIME(3) NULL,
  actor VARCHAR(200) NOT NULL,
  KEY by_shot (shot_id, id),
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE,
  FOREIGN KEY (brief_id) REFERENCES briefs (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

CREATE TABLE batch_frames (
  batch_id BIGINT UNSIGNED NOT NULL,
  frame INT NOT NULL,
  -- The machine that it was given to, and its turn there.
  machine VARCHAR(100) NOT NULL,
  position INT UNSIGNED NOT NULL,
  -- The order at the service that holds it.
  order_id CHAR(36) CHARACTER SET ascii NULL,
  state ENUM('waiting', 'rendering', 'done', 'failed', 'stopped') NOT NULL DEFAULT 'waiting',
  seconds DOUBLE NULL,
  -- When it began, while it renders; when it ended, after.
  changed_at DATETIME(3) NULL,
  -- What the count after it said.
  verdict ENUM('sound', 'bad') NULL,
  says VARCHAR(1000) NULL,
  PRIMARY KEY (batch_id, frame),
  KEY by_order (batch_id, order_id),
  FOREIGN KEY (batch_id) REFERENCES batches (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

CREATE TABLE batch_lines (
  batch_id BIGINT UNSIGNED NOT NULL,
  order_id CHAR(36) CHARACTER SET ascii NOT NULL,
  number INT UNSIGNED NOT NULL,
  machine VARCHAR(100) NOT NULL,
  written_at DATETIME(3) NOT NULL,
  text TEXT NOT NULL,
  PRIMARY KEY (batch_id, order_id, number),
  KEY by_time (batch_id, written_at),
  FOREIGN KEY (batch_id) REFERENCES batches (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

CREATE TABLE batch_alarms (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  batch_id BIGINT UNSIGNED NOT NULL,
  kind ENUM('bad-in-row', 'stuck', 'machine-down', 'service-lost') NOT NULL,
  machine VARCHAR(100) NOT NULL,
  message VARCHAR(1000) NOT NULL,
  raised_at DATETIME(3) NOT NULL,
  settled_at DATETIME(3) NULL,
  KEY by_batch (batch_id, id),
  FOREIGN KEY (batch_id) REFERENCES batches (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
