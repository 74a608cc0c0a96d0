CREATE TABLE `mail_addresses` (
	`id` varchar(36) NOT NULL,
	`person_id` varchar(36) NOT NULL,
	`address` varchar(254) NOT NULL,
	`added_at` bigint NOT NULL,
	`proven_as` varchar(254),
	`proven_at` bigint,
	`key_hash` varchar(64),
	`key_until` bigint,
	CONSTRAINT `mail_addresses_id` PRIMARY KEY(`id`),
	CONSTRAINT `mail_addresses_of` UNIQUE(`person_id`,`address`),
	CONSTRAINT `mail_addresses_proven` UNIQUE(`proven_as`)
);
--> statement-breakpoint
ALTER TABLE `builds` ADD `author_mail` varchar(254);--> statement-breakpoint
CREATE INDEX `mail_addresses_key` ON `mail_addresses` (`key_hash`);