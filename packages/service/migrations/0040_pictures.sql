CREATE TABLE `pictures` (
	`id` varchar(36) NOT NULL,
	`project_id` varchar(36) NOT NULL,
	`before_artifact` varchar(64) NOT NULL,
	`after_artifact` varchar(64) NOT NULL,
	`state` varchar(8) NOT NULL,
	`pages` json NOT NULL,
	`now` bigint NOT NULL,
	`fence` int NOT NULL DEFAULT 0,
	`lease_until` datetime(3),
	`wanted_at` bigint NOT NULL,
	`ended_at` bigint,
	`why` varchar(300),
	`taken` json,
	CONSTRAINT `pictures_id` PRIMARY KEY(`id`),
	CONSTRAINT `pictures_of` UNIQUE(`project_id`,`before_artifact`,`after_artifact`)
);
--> statement-breakpoint
CREATE INDEX `pictures_state` ON `pictures` (`state`,`wanted_at`);--> statement-breakpoint
CREATE INDEX `pictures_wanted` ON `pictures` (`wanted_at`);