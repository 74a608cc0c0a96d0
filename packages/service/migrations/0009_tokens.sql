ALTER TABLE `tokens` ADD `made_with` varchar(36);--> statement-breakpoint
CREATE INDEX `tokens_made_with` ON `tokens` (`made_with`);--> statement-breakpoint
DELETE FROM `keyed_calls` WHERE `reply` LIKE '%"secret":%' OR `reply` LIKE '%"token":%';