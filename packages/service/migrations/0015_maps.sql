CREATE TABLE `maps` (
	`project_id` varchar(36) NOT NULL,
	`version` int NOT NULL,
	`text` mediumtext NOT NULL,
	`person_id` varchar(36),
	`reason` varchar(500),
	`at` bigint NOT NULL,
	CONSTRAINT `maps_project_id_version_pk` PRIMARY KEY(`project_id`,`version`)
);
--> statement-breakpoint
ALTER TABLE `builds` ADD `aim` json;--> statement-breakpoint
ALTER TABLE `environments` ADD `rule` varchar(40) DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `environments` ADD `ref` varchar(255);--> statement-breakpoint
ALTER TABLE `environments` ADD `touched_at` bigint;--> statement-breakpoint
ALTER TABLE `environments` ADD `head` varchar(64);--> statement-breakpoint
ALTER TABLE `environments` ADD `closed_at` bigint;--> statement-breakpoint
ALTER TABLE `environments` ADD `ended_at` bigint;--> statement-breakpoint
ALTER TABLE `environments` ADD `ended_because` varchar(12);--> statement-breakpoint
CREATE INDEX `environments_ref` ON `environments` (`project_id`,`ref`,`rule`);--> statement-breakpoint
CREATE INDEX `environments_living` ON `environments` (`project_id`,`living`,`place`);--> statement-breakpoint
UPDATE `environments` SET `rule` = `name` WHERE `rule` = '';--> statement-breakpoint
INSERT IGNORE INTO `maps` (`project_id`, `version`, `text`, `person_id`, `reason`, `at`)
SELECT `p`.`id`, `p`.`map_version`, CONCAT('map: ', `p`.`name`, '\nformat: 1\nlanes: [production, staging]\nenvironments:\n  production: {accepts: {from: staging}}\n  staging: {follows: {branch: ', JSON_QUOTE(`p`.`branch`), '}', IF(`e`.`overtaken` = 'stop', ', overtaken: stop', ''), '}\n'), NULL, NULL, `p`.`made_at`
FROM `projects` `p` LEFT JOIN `environments` `e` ON `e`.`project_id` = `p`.`id` AND `e`.`name` = 'staging' AND `e`.`living` = true;
