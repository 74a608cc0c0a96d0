ALTER TABLE `projects` ADD `built_as` varchar(40) DEFAULT '' NOT NULL;--> statement-breakpoint
UPDATE `projects` SET `built_as` = `name` WHERE `built_as` = '';