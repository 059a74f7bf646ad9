-- Where the fireflies of a frame are: 32 bits each, pixels from the upper left corner; null where they were not kept.
ALTER TABLE assay_tiles ADD COLUMN fireflies MEDIUMBLOB NULL;
