-- Requests: of a kind and shot one job runs, and what waits carries the newest wish. Both are keys,
-- so that a request is one statement. A job that its engine let go of stays begun, without a holder.

ALTER TABLE jobs
  DROP COLUMN active_key,
  MODIFY kind VARCHAR(16) CHARACTER SET ascii NOT NULL,
  -- What the request stands for among those of its kind and shot; a checksum where that is long.
  ADD COLUMN subject VARCHAR(80) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '' AFTER kind,
  -- Engines that fell while they worked on it, since it last came further.
  CHANGE attempts falls INT UNSIGNED NOT NULL DEFAULT 0,
  -- Where it stood at the last fall: phase, and how much was left.
  ADD COLUMN fell_in VARCHAR(32) NULL,
  ADD COLUMN fell_with_left BIGINT UNSIGNED NULL,
  -- The revision of the shot when the job was begun.
  ADD COLUMN begun_revision BIGINT UNSIGNED NULL,
  ADD COLUMN waiting_key VARCHAR(140) CHARACTER SET ascii COLLATE ascii_bin AS (IF(state = 'queued', CONCAT(shot_id, ' ', kind, ' ', subject), NULL)) VIRTUAL,
  ADD COLUMN running_key VARCHAR(40) CHARACTER SET ascii COLLATE ascii_bin AS (IF(state = 'running', CONCAT(shot_id, ' ', kind), NULL)) VIRTUAL,
  ADD UNIQUE KEY one_waits (waiting_key),
  ADD UNIQUE KEY one_runs (running_key),
  ADD KEY newest (shot_id, kind, state, id);

ALTER TABLE shots
  -- Counts up with everything that changes what a count or a package would come to.
  ADD COLUMN revision BIGINT UNSIGNED NOT NULL DEFAULT 0;

ALTER TABLE batch_alarms MODIFY kind VARCHAR(16) CHARACTER SET ascii NOT NULL;
