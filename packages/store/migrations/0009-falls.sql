-- What must be known of files on disk after a fall in the middle of moving them.

ALTER TABLE merge_steps
  -- Of the file that made room, known before it is moved.
  ADD COLUMN aside_sha256 CHAR(64) CHARACTER SET ascii NULL;

ALTER TABLE packages
  -- A package is written down before it gets its name; until the job has ended it is not certain that it has.
  ADD COLUMN state ENUM('naming', 'written') NOT NULL DEFAULT 'written',
  ADD KEY by_place (root, folder(200));

ALTER TABLE file_facts
  -- Milliseconds since 1970, as the file system says, which may be beyond what whole numbers of this size hold.
  MODIFY modified DOUBLE NOT NULL;
