-- What a count found changed since the one before, and what stood in the folder then: a folder
-- in which nothing has changed need not be judged again.

ALTER TABLE tallies
  -- Stands for brief, names, sizes and times of everything that was listed.
  ADD COLUMN listing CHAR(64) CHARACTER SET ascii NULL,
  -- Files that arrived, were replaced or vanished; null for a first count.
  ADD COLUMN changes JSON NULL;
