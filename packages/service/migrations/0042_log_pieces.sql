ALTER TABLE `attempts` ADD `log_kept` boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `log_chunks` ADD `is_zipped` boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `log_chunks` ADD `lines_before` bigint;--> statement-breakpoint
CREATE INDEX `log_chunks_line` ON `log_chunks` (`attempt_id`,`lines_before`,`offset`);--> statement-breakpoint
DELETE `log_chunks` FROM `log_chunks` JOIN `attempts` ON `attempts`.`id` = `log_chunks`.`attempt_id` WHERE `attempts`.`packed_log` IS NOT NULL;--> statement-breakpoint
INSERT INTO `log_chunks` (`attempt_id`, `offset`, `bytes`, `is_zipped`, `segments`) SELECT `id`, 0, `packed_log`, true, `segments` FROM `attempts` WHERE `packed_log` IS NOT NULL AND `log_bytes` > 0;--> statement-breakpoint
UPDATE `attempts` SET `log_kept` = true WHERE `packed_log` IS NOT NULL;
