-- A tally stands in parts, so that a page reads what it shows: its sums, those of its passes, its findings,
-- and apart from them the long lists of files that somebody asks for by copying them.

ALTER TABLE tallies
  ADD COLUMN ready BOOLEAN NOT NULL DEFAULT FALSE,
  -- How closely the files were looked at.
  ADD COLUMN level VARCHAR(16) CHARACTER SET ascii NOT NULL DEFAULT 'full',
  ADD COLUMN expected INT UNSIGNED NOT NULL DEFAULT 0,
  ADD COLUMN sound INT UNSIGNED NOT NULL DEFAULT 0,
  ADD COLUMN blockers INT UNSIGNED NOT NULL DEFAULT 0,
  ADD COLUMN findings INT UNSIGNED NOT NULL DEFAULT 0;

CREATE TABLE tally_passes (
  tally_id BIGINT UNSIGNED NOT NULL,
  place INT UNSIGNED NOT NULL,
  name VARCHAR(1000) NOT NULL,
  expected INT UNSIGNED NOT NULL,
  sound INT UNSIGNED NOT NULL,
  -- Range notation, like the two after it.
  missing LONGTEXT NOT NULL,
  broken LONGTEXT NOT NULL,
  unexpected LONGTEXT NOT NULL,
  PRIMARY KEY (tally_id, place),
  FOREIGN KEY (tally_id) REFERENCES tallies (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

CREATE TABLE tally_findings (
  tally_id BIGINT UNSIGNED NOT NULL,
  -- Blockers first.
  place INT UNSIGNED NOT NULL,
  code VARCHAR(64) CHARACTER SET ascii NOT NULL,
  severity VARCHAR(16) CHARACTER SET ascii NOT NULL,
  family VARCHAR(16) CHARACTER SET ascii NOT NULL,
  pass VARCHAR(1000) NULL,
  -- Range notation; empty when it concerns no frame.
  frames LONGTEXT NOT NULL,
  message MEDIUMTEXT NOT NULL,
  detail MEDIUMTEXT NOT NULL,
  -- How many files it has, also where not all are listed.
  file_count INT UNSIGNED NOT NULL,
  -- What a page shows: JSON lists.
  files LONGTEXT NOT NULL,
  evidence LONGTEXT NOT NULL,
  -- All that was written down, where that is more than a page shows; else null.
  all_files LONGTEXT NULL,
  all_evidence LONGTEXT NULL,
  PRIMARY KEY (tally_id, place),
  FOREIGN KEY (tally_id) REFERENCES tallies (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

-- What somebody changed from outside must not keep all from starting: it is told where it is shown.
INSERT IGNORE INTO tally_passes
  SELECT tallies.id, pass.place - 1, pass.name, pass.expected, pass.sound, pass.missing, pass.broken, pass.unexpected
    FROM tallies, JSON_TABLE(body, '$.passes[*]' COLUMNS (
      place FOR ORDINALITY, name VARCHAR(1000) PATH '$.name', expected INT PATH '$.expected', sound INT PATH '$.sound',
      missing LONGTEXT PATH '$.missing', broken LONGTEXT PATH '$.broken', unexpected LONGTEXT PATH '$.unexpected')) AS pass;

INSERT IGNORE INTO tally_findings
  SELECT tallies.id, one.place - 1, one.code, one.severity, one.family, one.pass, one.frames, one.message, one.detail,
      JSON_LENGTH(body, CONCAT('$.findings[', one.place - 1, '].files')) + COALESCE(one.more_files, 0),
      COALESCE(IF(one.frames = '', JSON_EXTRACT(body, CONCAT('$.findings[', one.place - 1, '].files')),
        JSON_EXTRACT(body, CONCAT('$.findings[', one.place - 1, '].files[0 to 19]'))), '[]'),
      COALESCE(JSON_EXTRACT(body, CONCAT('$.findings[', one.place - 1, '].evidence[0 to 19]')), '[]'),
      JSON_EXTRACT(body, CONCAT('$.findings[', one.place - 1, '].files')),
      JSON_EXTRACT(body, CONCAT('$.findings[', one.place - 1, '].evidence'))
    FROM tallies, JSON_TABLE(body, '$.findings[*]' COLUMNS (
      place FOR ORDINALITY, code VARCHAR(64) PATH '$.code', severity VARCHAR(16) PATH '$.severity', family VARCHAR(16) PATH '$.family',
      pass VARCHAR(1000) PATH '$.pass', frames LONGTEXT PATH '$.frames', message MEDIUMTEXT PATH '$.message', detail MEDIUMTEXT PATH '$.detail',
      more_files INT PATH '$.moreFiles')) AS one;

UPDATE tallies SET
  ready = COALESCE(JSON_VALUE(body, '$.ready') IN ('1', 'true'), FALSE),
  level = COALESCE(JSON_VALUE(body, '$.level'), 'full'),
  expected = (SELECT COALESCE(SUM(expected), 0) FROM tally_passes WHERE tally_id = tallies.id),
  sound = (SELECT COALESCE(SUM(sound), 0) FROM tally_passes WHERE tally_id = tallies.id),
  blockers = (SELECT COUNT(*) FROM tally_findings WHERE tally_id = tallies.id AND severity = 'blocker'),
  findings = (SELECT COUNT(*) FROM tally_findings WHERE tally_id = tallies.id);

ALTER TABLE tallies DROP COLUMN body;
