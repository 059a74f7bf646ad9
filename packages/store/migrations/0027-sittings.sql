-- What a part of a denoising came to before it was interrupted, as JSON: whoever goes on with it adds to it.
ALTER TABLE denoise_parts ADD COLUMN so_far LONGTEXT NULL;
