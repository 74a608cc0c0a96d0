CREATE TABLE `recovery_words` (
	`hash` varchar(64) NOT NULL,
	`person_id` varchar(36) NOT NULL,
	`used_at` bigint,
	CONSTRAINT `recovery_words_hash` PRIMARY KEY(`hash`)
);
--> statement-breakpoint
CREATE TABLE `second_factors` (
	`person_id` varchar(36) NOT NULL,
	`sealed` longblob,
	`since` bigint,
	`last_step` bigint NOT NULL DEFAULT 0,
	`next_sealed` longblob,
	CONSTRAINT `second_factors_person_id` PRIMARY KEY(`person_id`)
);
--> statement-breakpoint
CREATE TABLE `sign_in_rules` (
	`id` int NOT NULL,
	`factor_from` varchar(20),
	CONSTRAINT `sign_in_rules_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE INDEX `recovery_words_person` ON `recovery_words` (`person_id`);