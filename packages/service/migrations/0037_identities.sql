CREATE TABLE `identities` (
	`issuer` varchar(255) NOT NULL,
	`subject` varchar(255) NOT NULL,
	`person_id` varchar(36) NOT NULL,
	`since` bigint NOT NULL,
	CONSTRAINT `identities_issuer_subject_pk` PRIMARY KEY(`issuer`,`subject`),
	CONSTRAINT `identities_person` UNIQUE(`person_id`,`issuer`)
);
