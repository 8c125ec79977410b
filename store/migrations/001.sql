-- What was seen, drives, projects, repairs, wishes and jobs, all by paths.
CREATE TABLE `seens` (`path` text,`size` integer,`mod_nano` integer,`sha256` text,`facts` text,`at` datetime,PRIMARY KEY (`path`));
CREATE INDEX `idx_seens_sha256` ON `seens`(`sha256`);
CREATE TABLE `drives` (`id` text,`name` text,`dir` text,`kind` text,`known` text,`stand` numeric,PRIMARY KEY (`id`));
CREATE UNIQUE INDEX `idx_drives_name` ON `drives`(`name`);
CREATE TABLE `projects` (`id` integer PRIMARY KEY AUTOINCREMENT,`name` text,`document` text,`root` text,`options` text,`note` text,`out` text,`sealed` text,`sealed_at` datetime,`created_at` datetime,`opened_at` datetime);
CREATE UNIQUE INDEX `idx_projects_document` ON `projects`(`document`);
CREATE TABLE `repairs` (`id` integer PRIMARY KEY AUTOINCREMENT,`project_id` integer,`from` text,`to` text,`prefix` numeric,`document` text,`written` text,`certainty` text,`reasons` text,`batch` integer,`created_at` datetime);
CREATE INDEX `idx_repairs_project_id` ON `repairs`(`project_id`);
CREATE TABLE `overrides` (`project_id` integer,`key` text,`folder` text,`name` text,PRIMARY KEY (`project_id`,`key`));
CREATE TABLE `jobs` (`id` text,`project_id` integer,`kind` text,`title` text,`state` text,`step` text,`done` integer,`total` integer,`error` text,`created_at` datetime,`ended_at` datetime,PRIMARY KEY (`id`));
CREATE INDEX `idx_jobs_project_id` ON `jobs`(`project_id`);
