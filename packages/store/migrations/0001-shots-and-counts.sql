-- Projects, shots, briefs, and what is known of the files. Times are UTC. Every table that holds
-- a decision says who took it (actor).

CREATE TABLE projects (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(200) NOT NULL UNIQUE,
  created_at DATETIME(3) NOT NULL,
  actor VARCHAR(200) NOT NULL
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

CREATE TABLE shots (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  project_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(200) NOT NULL,
  note VARCHAR(500) NOT NULL DEFAULT '',
  root VARCHAR(32) NOT NULL,
  -- Relative to the root; empty for the root itself.
  folder VARCHAR(2048) NOT NULL,
  created_at DATETIME(3) NOT NULL,
  actor VARCHAR(200) NOT NULL,
  UNIQUE KEY one_name_a_project (project_id, name),
  FOREIGN KEY (project_id) REFERENCES projects (id)
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

CREATE TABLE briefs (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  shot_id BIGINT UNSIGNED NOT NULL,
  version INT UNSIGNED NOT NULL,
  body JSON NOT NULL,
  created_at DATETIME(3) NOT NULL,
  actor VARCHAR(200) NOT NULL,
  UNIQUE KEY one_version_a_shot (shot_id, version),
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

-- What a look at a file found, kept while size and time stay the same. Paths are bytes: names
-- that differ only in case or accents are different files.
CREATE TABLE file_facts (
  shot_id BIGINT UNSIGNED NOT NULL,
  path VARBINARY(2048) NOT NULL,
  size BIGINT UNSIGNED NOT NULL,
  -- Milliseconds since 1970, as the file system says.
  modified BIGINT NOT NULL,
  sha256 CHAR(64) CHARACTER SET ascii NULL,
  facts JSON NOT NULL,
  PRIMARY KEY (shot_id, path),
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

CREATE TABLE tallies (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  shot_id BIGINT UNSIGNED NOT NULL,
  brief_id BIGINT UNSIGNED NOT NULL,
  body JSON NOT NULL,
  files INT UNSIGNED NOT NULL,
  bytes BIGINT UNSIGNED NOT NULL,
  -- Files that had to be opened; the others were known and had not changed.
  opened INT UNSIGNED NOT NULL,
  -- Stands for the content of all counted files: changes when any of them does.
  content CHAR(64) CHARACTER SET ascii NOT NULL,
  counted_at DATETIME(3) NOT NULL,
  actor VARCHAR(200) NOT NULL,
  KEY newest (shot_id, id),
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE,
  FOREIGN KEY (brief_id) REFERENCES briefs (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

-- What a named person accepts: a finding (by code, pass, detail and frames) or a gate that
-- nothing measures.
CREATE TABLE waivers (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  shot_id BIGINT UNSIGNED NOT NULL,
  subject JSON NOT NULL,
  person VARCHAR(200) NOT NULL,
  reason VARCHAR(2000) NOT NULL,
  created_at DATETIME(3) NOT NULL,
  actor VARCHAR(200) NOT NULL,
  withdrawn_at DATETIME(3) NULL,
  withdrawn_by VARCHAR(200) NULL,
  KEY by_shot (shot_id),
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

CREATE TABLE packages (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  shot_id BIGINT UNSIGNED NOT NULL,
  tally_id BIGINT UNSIGNED NOT NULL,
  root VARCHAR(32) NOT NULL,
  folder VARCHAR(2048) NOT NULL,
  files INT UNSIGNED NOT NULL,
  bytes BIGINT UNSIGNED NOT NULL,
  -- Checksum of manifest-sha256.txt: names the package's content.
  manifest_sha256 CHAR(64) CHARACTER SET ascii NOT NULL,
  created_at DATETIME(3) NOT NULL,
  actor VARCHAR(200) NOT NULL,
  KEY by_shot (shot_id, id),
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE,
  FOREIGN KEY (tally_id) REFERENCES tallies (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

CREATE TABLE settings (
  name VARCHAR(64) NOT NULL PRIMARY KEY,
  value TEXT NOT NULL
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
