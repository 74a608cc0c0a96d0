CREATE TABLE `favourites` (
	`person_id` varchar(36) NOT NULL,
	`project_id` varchar(36) NOT NULL,
	CONSTRAINT `favourites_person_id_project_id_pk` PRIMARY KEY(`person_id`,`project_id`)
);
