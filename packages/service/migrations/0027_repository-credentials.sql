CREATE TABLE `repository_credentials` (
	`repository_id` varchar(36) NOT NULL,
	`user` varchar(200) NOT NULL,
	`sealed` longblob NOT NULL,
	`set_by` varchar(36) NOT NULL,
	`set_at` bigint NOT NULL,
	CONSTRAINT `repository_credentials_repository_id` PRIMARY KEY(`repository_id`)
);
