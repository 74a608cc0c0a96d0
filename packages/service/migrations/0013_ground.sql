CREATE TABLE `leases` (
	`name` varchar(60) NOT NULL,
	`holder` varchar(36) NOT NULL,
	`fence` bigint NOT NULL,
	`until` datetime(3) NOT NULL,
	CONSTRAINT `leases_name` PRIMARY KEY(`name`)
);
--> statement-breakpoint
ALTER TABLE `deploys` ADD `call_key` varchar(100);--> statement-breakpoint
ALTER TABLE `deploys` ADD `call` varchar(64);--> statement-breakpoint
ALTER TABLE `keyed_calls` ADD `kept` longtext;--> statement-breakpoint
ALTER TABLE `deploys` ADD CONSTRAINT `deploys_call` UNIQUE(`actor_id`,`call_key`);--> statement-breakpoint
CREATE INDEX `artifacts_gone` ON `artifacts` (`gone_at`);--> statement-breakpoint
CREATE INDEX `builds_recipe` ON `builds` (`project_id`,`recipe_name`,`ref`,`number`);--> statement-breakpoint
CREATE INDEX `builds_commit` ON `builds` (`project_id`,`commit_id`,`number`);--> statement-breakpoint
CREATE INDEX `builds_artifact` ON `builds` (`project_id`,`artifact`);--> statement-breakpoint
CREATE INDEX `builds_change` ON `builds` (`change_id`);--> statement-breakpoint
CREATE INDEX `changes_at` ON `changes` (`at`);--> statement-breakpoint
CREATE INDEX `deploys_undoes` ON `deploys` (`environment_id`,`undoes_last`,`undoes_first`);--> statement-breakpoint
CREATE INDEX `intakes_state` ON `intakes` (`state`,`environment_id`,`intake`);--> statement-breakpoint
CREATE INDEX `log_entries_kind` ON `log_entries` (`kind`,`position`);--> statement-breakpoint
CREATE INDEX `pull_requests_state` ON `pull_requests` (`state`,`repository_id`,`number`);--> statement-breakpoint
CREATE INDEX `pull_requests_ended` ON `pull_requests` (`repository_id`,`ended_at`);--> statement-breakpoint
CREATE INDEX `sessions_expires` ON `sessions` (`expires_at`);