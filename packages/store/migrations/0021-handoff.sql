-- What was chosen for a package, of how many volumes it is, and what whoever has it has of the shot: checksums of frames by path, packed.
ALTER TABLE packages
  ADD COLUMN wish LONGTEXT NOT NULL DEFAULT '{}',
  ADD COLUMN volumes INT UNSIGNED NOT NULL DEFAULT 1,
  ADD COLUMN holds LONGBLOB NULL;

-- Movies that were made and read back; one that is being named may or may not have its name.
CREATE TABLE movies (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  shot_id BIGINT UNSIGNED NOT NULL,
  root VARCHAR(32) NOT NULL,
  file VARCHAR(2048) NOT NULL,
  pass VARCHAR(200) NOT NULL,
  wish LONGTEXT NOT NULL,
  made LONGTEXT NOT NULL,
  created_at DATETIME(3) NOT NULL,
  actor VARCHAR(200) NOT NULL,
  KEY by_shot (shot_id, id),
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

-- A person's word for a version: that it is signed off, or that it goes back. It holds for the content that was counted then.
CREATE TABLE stamps (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  shot_id BIGINT UNSIGNED NOT NULL,
  kind ENUM('signed', 'sent-back') NOT NULL,
  content CHAR(64) CHARACTER SET ascii NOT NULL,
  person VARCHAR(200) NOT NULL,
  note TEXT NOT NULL,
  created_at DATETIME(3) NOT NULL,
  actor VARCHAR(200) NOT NULL,
  withdrawn_at DATETIME(3) NULL,
  withdrawn_by VARCHAR(200) NULL,
  KEY by_shot (shot_id, id),
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

-- What the other side says of a package that arrived.
CREATE TABLE receipts (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  shot_id BIGINT UNSIGNED NOT NULL,
  package_id BIGINT UNSIGNED NULL,
  body LONGTEXT NOT NULL,
  created_at DATETIME(3) NOT NULL,
  actor VARCHAR(200) NOT NULL,
  KEY by_shot (shot_id, id),
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
