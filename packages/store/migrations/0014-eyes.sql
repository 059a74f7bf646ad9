-- Who has seen which frames, and which content the frames have: a replaced frame has not been seen.

CREATE TABLE sights (
  shot_id BIGINT UNSIGNED NOT NULL,
  pass VARCHAR(100) NOT NULL,
  frame INT NOT NULL,
  -- The first bytes of the file's SHA-256.
  content BINARY(8) NOT NULL,
  way ENUM('full', 'fitted', 'stepped') NOT NULL,
  -- Bits of the parts of the frame that stood on the screen.
  parts INT UNSIGNED NOT NULL,
  -- Whoever saw it last.
  person VARCHAR(200) NOT NULL,
  seen_at DATETIME(3) NOT NULL,
  PRIMARY KEY (shot_id, pass, frame, content, way),
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;

CREATE TABLE pass_contents (
  shot_id BIGINT UNSIGNED NOT NULL,
  -- One that owns its files.
  pass VARCHAR(100) NOT NULL,
  -- Twelve bytes a frame: its number, lowest byte first, and the first bytes of its file's SHA-256.
  body LONGBLOB NOT NULL,
  PRIMARY KEY (shot_id, pass),
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
