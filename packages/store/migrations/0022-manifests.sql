-- Checksums of a package's manifests, one a volume: a receipt names the one that arrived. Earlier ones have the one manifest.
ALTER TABLE packages ADD COLUMN manifests LONGTEXT NULL;
