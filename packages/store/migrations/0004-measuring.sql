-- Test frames are measured by a job of their own.
ALTER TABLE jobs MODIFY kind ENUM('count', 'package', 'measure') NOT NULL;
