-- What pages show, put together when it changes and not when somebody looks.

CREATE TABLE file_tables (
  shot_id BIGINT UNSIGNED NOT NULL,
  -- Large tables stand in several parts.
  part INT UNSIGNED NOT NULL,
  -- Of the count that it was made by, or that found nothing changed since.
  tally_id BIGINT UNSIGNED NOT NULL,
  -- JSON, packed with deflate.
  body LONGBLOB NOT NULL,
  PRIMARY KEY (shot_id, part),
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

CREATE TABLE shot_summaries (
  shot_id BIGINT UNSIGNED NOT NULL PRIMARY KEY,
  -- Stands for everything that the summary was made from.
  state_key VARCHAR(200) CHARACTER SET ascii NOT NULL,
  body MEDIUMTEXT NOT NULL,
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

-- Pictures are named by the content that they show; the ones of content that is gone are found by it.
ALTER TABLE file_facts ADD KEY by_content (sha256);

ALTER TABLE merges
  -- When what it had set aside was let go; it cannot be taken back any more then.
  ADD COLUMN let_go_at DATETIME(3) NULL;
