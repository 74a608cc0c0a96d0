ALTER TABLE `environments` ADD `ended_by` varchar(36);--> statement-breakpoint
ALTER TABLE `environments` ADD `ended_deploy_id` varchar(36);