ALTER TABLE `repositories` ADD `home_id` varchar(36) NOT NULL;--> statement-breakpoint
UPDATE `repositories` SET `home_id` = COALESCE((SELECT MIN(`projects`.`id`) FROM `projects` WHERE `projects`.`repository_id` = `repositories`.`id`), '');
