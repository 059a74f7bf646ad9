-- What receivers ask for: saved under a name, followed by any number of shots.

CREATE TABLE specifications (
  id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
  project_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(100) NOT NULL,
  body JSON NOT NULL,
  saved_at DATETIME(3) NOT NULL,
  actor VARCHAR(200) NOT NULL,
  UNIQUE KEY one_name_a_project (project_id, name),
  FOREIGN KEY (project_id) REFERENCES projects (id)
) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
