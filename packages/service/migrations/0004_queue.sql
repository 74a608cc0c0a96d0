ALTER TABLE `builds` ADD `overtaken_by` int;--> statement-breakpoint
ALTER TABLE `builds` ADD `needs` json;--> statement-breakpoint
ALTER TABLE `environments` ADD `overtaken` varchar(10) DEFAULT 'finish' NOT NULL;--> statement-breakpoint
ALTER TABLE `machines` ADD `slots` int DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `machines` ADD `labels` json;--> statement-breakpoint
ALTER TABLE `machines` ADD `draining` boolean DEFAULT false NOT NULL;