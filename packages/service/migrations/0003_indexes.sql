CREATE INDEX `evidence_kind` ON `evidence` (`project_id`,`kind`,`id`);--> statement-breakpoint
CREATE INDEX `step_results_at` ON `step_results` (`project_id`,`at`);