ALTER TABLE `builds` ADD `begun_by` varchar(36);--> statement-breakpoint
CREATE INDEX `builds_begun` ON `builds` (`begun_by`,`ended_at`);