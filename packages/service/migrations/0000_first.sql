CREATE TABLE `accepted_recipes` (
	`project_id` varchar(36) NOT NULL,
	`version` int NOT NULL,
	`recipe` json NOT NULL,
	`person_id` varchar(36) NOT NULL,
	`at` bigint NOT NULL,
	CONSTRAINT `accepted_recipes_project_id_version_pk` PRIMARY KEY(`project_id`,`version`)
);
--> statement-breakpoint
CREATE TABLE `artifacts` (
	`project_id` varchar(36) NOT NULL,
	`digest` varchar(64) NOT NULL,
	`build_id` varchar(36) NOT NULL,
	`files` int NOT NULL,
	`bytes` bigint NOT NULL,
	`stored_at` bigint NOT NULL,
	`gone_at` bigint,
	CONSTRAINT `artifacts_project_id_digest_pk` PRIMARY KEY(`project_id`,`digest`)
);
--> statement-breakpoint
CREATE TABLE `attempt_steps` (
	`attempt_id` varchar(36) NOT NULL,
	`place` int NOT NULL,
	`name` varchar(60) NOT NULL,
	`says` varchar(2000) NOT NULL,
	`state` varchar(12) NOT NULL,
	`started_at` bigint,
	`ended_at` bigint,
	`log_from` bigint,
	CONSTRAINT `attempt_steps_attempt_id_place_pk` PRIMARY KEY(`attempt_id`,`place`)
);
--> statement-breakpoint
CREATE TABLE `attempts` (
	`id` varchar(36) NOT NULL,
	`build_id` varchar(36) NOT NULL,
	`fence` int NOT NULL,
	`runner_id` varchar(36) NOT NULL,
	`instance` varchar(36) NOT NULL,
	`credential_hash` varchar(64) NOT NULL,
	`state` varchar(12) NOT NULL,
	`lease_until` datetime(3) NOT NULL,
	`log_bytes` bigint NOT NULL DEFAULT 0,
	`packed_log` longblob,
	`line_offsets` json,
	CONSTRAINT `attempts_id` PRIMARY KEY(`id`),
	CONSTRAINT `attempts_fence` UNIQUE(`build_id`,`fence`),
	CONSTRAINT `attempts_credential` UNIQUE(`credential_hash`)
);
--> statement-breakpoint
CREATE TABLE `builds` (
	`id` varchar(36) NOT NULL,
	`project_id` varchar(36) NOT NULL,
	`number` int NOT NULL,
	`state` varchar(12) NOT NULL,
	`ref` varchar(255) NOT NULL,
	`commit_id` varchar(64) NOT NULL,
	`subject` varchar(500) NOT NULL,
	`author` varchar(200) NOT NULL,
	`committed_at` bigint NOT NULL,
	`cause` varchar(300) NOT NULL,
	`change_id` varchar(36),
	`recipe` json,
	`queued_at` bigint NOT NULL,
	`started_at` bigint,
	`ended_at` bigint,
	`artifact` varchar(64),
	`failure` json,
	`attempts` int NOT NULL DEFAULT 0,
	CONSTRAINT `builds_id` PRIMARY KEY(`id`),
	CONSTRAINT `builds_number` UNIQUE(`project_id`,`number`)
);
--> statement-breakpoint
CREATE TABLE `changes` (
	`id` varchar(36) NOT NULL,
	`repository_id` varchar(36) NOT NULL,
	`look` int NOT NULL,
	`ref` varchar(255) NOT NULL,
	`from_commit` varchar(64),
	`to_commit` varchar(64),
	`doorbell` varchar(20) NOT NULL,
	`actor_id` varchar(36),
	`at` bigint NOT NULL,
	CONSTRAINT `changes_id` PRIMARY KEY(`id`),
	CONSTRAINT `changes_once` UNIQUE(`repository_id`,`look`,`ref`)
);
--> statement-breakpoint
CREATE TABLE `deploys` (
	`id` varchar(36) NOT NULL,
	`environment_id` varchar(36) NOT NULL,
	`number` int NOT NULL,
	`kind` varchar(12) NOT NULL,
	`build_id` varchar(36) NOT NULL,
	`commit_id` varchar(64) NOT NULL,
	`artifact` varchar(64) NOT NULL,
	`configuration` json NOT NULL,
	`previous_deploy_id` varchar(36),
	`undoes_first` int,
	`undoes_last` int,
	`intake` int NOT NULL,
	`move_id` varchar(36) NOT NULL,
	`actor_id` varchar(36),
	`through` varchar(20) NOT NULL,
	`reason` varchar(500),
	`committed_at` bigint NOT NULL,
	`confirmed_at` bigint,
	`position` bigint NOT NULL DEFAULT 0,
	CONSTRAINT `deploys_id` PRIMARY KEY(`id`),
	CONSTRAINT `deploys_number` UNIQUE(`environment_id`,`number`)
);
--> statement-breakpoint
CREATE TABLE `environments` (
	`id` varchar(36) NOT NULL,
	`project_id` varchar(36) NOT NULL,
	`name` varchar(40) NOT NULL,
	`place` int NOT NULL,
	`generation` int NOT NULL DEFAULT 0,
	`intake` int NOT NULL DEFAULT 0,
	`last_deploy` int NOT NULL DEFAULT 0,
	`serves_deploy_id` varchar(36),
	`living` boolean DEFAULT true,
	CONSTRAINT `environments_id` PRIMARY KEY(`id`),
	CONSTRAINT `environments_name` UNIQUE(`project_id`,`name`,`living`)
);
--> statement-breakpoint
CREATE TABLE `grants` (
	`id` varchar(36) NOT NULL,
	`person_id` varchar(36) NOT NULL,
	`project_id` varchar(36),
	`role` varchar(20) NOT NULL,
	CONSTRAINT `grants_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `holds` (
	`id` varchar(36) NOT NULL,
	`environment_id` varchar(36) NOT NULL,
	`deploy_id` varchar(36),
	`person_id` varchar(36),
	`reason` varchar(500) NOT NULL,
	`since` bigint NOT NULL,
	`lifted_at` bigint,
	`lifted_by` varchar(36),
	`standing` boolean DEFAULT true,
	CONSTRAINT `holds_id` PRIMARY KEY(`id`),
	CONSTRAINT `holds_standing` UNIQUE(`environment_id`,`standing`)
);
--> statement-breakpoint
CREATE TABLE `intakes` (
	`environment_id` varchar(36) NOT NULL,
	`intake` int NOT NULL,
	`change_id` varchar(36),
	`build_id` varchar(36) NOT NULL,
	`state` varchar(12) NOT NULL,
	CONSTRAINT `intakes_environment_id_intake_pk` PRIMARY KEY(`environment_id`,`intake`)
);
--> statement-breakpoint
CREATE TABLE `keyed_calls` (
	`actor_id` varchar(36) NOT NULL,
	`key` varchar(100) NOT NULL,
	`call` varchar(64) NOT NULL,
	`status` int,
	`reply` longtext,
	`at` bigint NOT NULL,
	CONSTRAINT `keyed_calls_actor_id_key_pk` PRIMARY KEY(`actor_id`,`key`)
);
--> statement-breakpoint
CREATE TABLE `log_chunks` (
	`attempt_id` varchar(36) NOT NULL,
	`offset` bigint NOT NULL,
	`bytes` longblob NOT NULL,
	CONSTRAINT `log_chunks_attempt_id_offset_pk` PRIMARY KEY(`attempt_id`,`offset`)
);
--> statement-breakpoint
CREATE TABLE `log_entries` (
	`position` bigint NOT NULL,
	`at` bigint NOT NULL,
	`kind` varchar(60) NOT NULL,
	`project_id` varchar(36),
	`bytes` longtext NOT NULL,
	`leaf` varchar(64) NOT NULL,
	CONSTRAINT `log_entries_position` PRIMARY KEY(`position`)
);
--> statement-breakpoint
CREATE TABLE `log_head` (
	`id` int NOT NULL,
	`position` bigint NOT NULL,
	CONSTRAINT `log_head_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `log_personal` (
	`position` bigint NOT NULL,
	`field` varchar(40) NOT NULL,
	`salt` varchar(32) NOT NULL,
	`value` varchar(500) NOT NULL,
	CONSTRAINT `log_personal_position_field_pk` PRIMARY KEY(`position`,`field`)
);
--> statement-breakpoint
CREATE TABLE `machines` (
	`id` varchar(36) NOT NULL,
	`role` varchar(10) NOT NULL,
	`name` varchar(60) NOT NULL,
	`token_hash` varchar(64) NOT NULL,
	`instance` varchar(36),
	`beat_at` datetime(3),
	`revision` bigint NOT NULL DEFAULT 0,
	CONSTRAINT `machines_id` PRIMARY KEY(`id`),
	CONSTRAINT `machines_name` UNIQUE(`role`,`name`),
	CONSTRAINT `machines_token` UNIQUE(`token_hash`)
);
--> statement-breakpoint
CREATE TABLE `people` (
	`id` varchar(36) NOT NULL,
	`name` varchar(100) NOT NULL,
	`shown_as` varchar(200) NOT NULL,
	`password_hash` varchar(255),
	`made_at` bigint NOT NULL,
	CONSTRAINT `people_id` PRIMARY KEY(`id`),
	CONSTRAINT `people_name` UNIQUE(`name`)
);
--> statement-breakpoint
CREATE TABLE `projects` (
	`id` varchar(36) NOT NULL,
	`name` varchar(40) NOT NULL,
	`repository_id` varchar(36) NOT NULL,
	`folder` varchar(255) NOT NULL,
	`branch` varchar(250) NOT NULL,
	`map_version` int NOT NULL,
	`last_build` int NOT NULL DEFAULT 0,
	`made_at` bigint NOT NULL,
	CONSTRAINT `projects_id` PRIMARY KEY(`id`),
	CONSTRAINT `projects_name` UNIQUE(`name`)
);
--> statement-breakpoint
CREATE TABLE `refs` (
	`repository_id` varchar(36) NOT NULL,
	`name` varchar(255) NOT NULL,
	`commit_id` varchar(64) NOT NULL,
	CONSTRAINT `refs_repository_id_name_pk` PRIMARY KEY(`repository_id`,`name`)
);
--> statement-breakpoint
CREATE TABLE `repositories` (
	`id` varchar(36) NOT NULL,
	`kind` varchar(10) NOT NULL,
	`place` varchar(1000) NOT NULL,
	`look` int NOT NULL DEFAULT 0,
	`looked_at` bigint,
	`trouble` varchar(1000),
	CONSTRAINT `repositories_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE TABLE `routing_entries` (
	`environment_id` varchar(36) NOT NULL,
	`targets` json NOT NULL,
	`deploy_id` varchar(36),
	CONSTRAINT `routing_entries_environment_id` PRIMARY KEY(`environment_id`)
);
--> statement-breakpoint
CREATE TABLE `sessions` (
	`hash` varchar(64) NOT NULL,
	`person_id` varchar(36) NOT NULL,
	`made_at` bigint NOT NULL,
	`expires_at` bigint NOT NULL,
	CONSTRAINT `sessions_hash` PRIMARY KEY(`hash`)
);
--> statement-breakpoint
CREATE TABLE `sign_in_tries` (
	`subject` varchar(255) NOT NULL,
	`failures` int NOT NULL,
	`last_at` bigint NOT NULL,
	CONSTRAINT `sign_in_tries_subject` PRIMARY KEY(`subject`)
);
--> statement-breakpoint
CREATE TABLE `tokens` (
	`id` varchar(36) NOT NULL,
	`hash` varchar(64) NOT NULL,
	`person_id` varchar(36) NOT NULL,
	`name` varchar(200) NOT NULL,
	`kind` varchar(10) NOT NULL,
	`made_at` bigint NOT NULL,
	`expires_at` bigint NOT NULL,
	`last_used_at` bigint,
	`revoked_at` bigint,
	CONSTRAINT `tokens_id` PRIMARY KEY(`id`),
	CONSTRAINT `tokens_hash` UNIQUE(`hash`)
);
--> statement-breakpoint
CREATE TABLE `uploads` (
	`id` varchar(36) NOT NULL,
	`attempt_id` varchar(36) NOT NULL,
	`opened_at` bigint NOT NULL,
	`closed_at` bigint,
	CONSTRAINT `uploads_id` PRIMARY KEY(`id`)
);
--> statement-breakpoint
CREATE INDEX `attempts_lease` ON `attempts` (`state`,`lease_until`);--> statement-breakpoint
CREATE INDEX `builds_state` ON `builds` (`state`,`id`);--> statement-breakpoint
CREATE INDEX `deploys_at` ON `deploys` (`environment_id`,`committed_at`,`number`);--> statement-breakpoint
CREATE INDEX `deploys_position` ON `deploys` (`position`);--> statement-breakpoint
CREATE INDEX `grants_person` ON `grants` (`person_id`);--> statement-breakpoint
CREATE INDEX `intakes_build` ON `intakes` (`build_id`);--> statement-breakpoint
CREATE INDEX `keyed_calls_at` ON `keyed_calls` (`at`);--> statement-breakpoint
CREATE INDEX `log_entries_project` ON `log_entries` (`project_id`,`position`);--> statement-breakpoint
CREATE INDEX `projects_repository` ON `projects` (`repository_id`);--> statement-breakpoint
CREATE INDEX `tokens_person` ON `tokens` (`person_id`);