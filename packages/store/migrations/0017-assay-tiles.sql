-- The noise of a frame's tiles, for heat maps and for figures of a region: newest assay alone.

CREATE TABLE assay_tiles (
  shot_id BIGINT UNSIGNED NOT NULL,
  pass VARCHAR(100) NOT NULL,
  frame INT NOT NULL,
  -- Of the picture, in pixels.
  width INT UNSIGNED NOT NULL,
  height INT UNSIGNED NOT NULL,
  -- 16 bits a tile: its noise, then its mean luminance (core, assay/kept-tiles.ts).
  tiles MEDIUMBLOB NOT NULL,
  PRIMARY KEY (shot_id, pass, frame),
  FOREIGN KEY (shot_id) REFERENCES shots (id) ON DELETE CASCADE
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
