-- What was measured of a shot's pixels: the newest assay, with its findings beside those of the count.

CREATE TABLE assays (
  shot_id BIGINT UNSIGNED NOT NULL PRIMARY KEY,
  brief_id BIGINT UNSIGNED NOT NULL,
  -- Stands for the content of all files that were counted; of others the assay says nothing.
  content CHAR(64) CHARACTER SET ascii NOT NULL,
  assayed_at DATETIME(3) NOT NULL,
  actor VARCHAR(200) NOT NULL,
  -- Figures of every frame, as JSON.
  body LONGTEXT NOT NULL,
  -- As JSON.
  findings LONGTEXT NOT NULL,
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE,
  FOREIGN KEY (brief_id) REFERENCES briefs (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
