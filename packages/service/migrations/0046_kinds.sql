DROP TABLE IF EXISTS `routing_entries`;
--> statement-breakpoint
ALTER TABLE `invitations` MODIFY COLUMN `person_id` varchar(36);
--> statement-breakpoint
UPDATE `invitations` SET `person_id` = NULL WHERE `person_id` = '';
--> statement-breakpoint
DELETE FROM `grants` WHERE `person_id` IS NOT NULL AND `person_id` NOT IN (SELECT `id` FROM `people`);
--> statement-breakpoint
DELETE FROM `grants` WHERE `project_id` IS NOT NULL AND `project_id` NOT IN (SELECT `id` FROM `projects`);
--> statement-breakpoint
DELETE FROM `group_members` WHERE `person_id` IS NOT NULL AND `person_id` NOT IN (SELECT `id` FROM `people`);
--> statement-breakpoint
DELETE FROM `group_members` WHERE `group_id` IS NOT NULL AND `group_id` NOT IN (SELECT `id` FROM `people`);
--> statement-breakpoint
DELETE FROM `sessions` WHERE `person_id` IS NOT NULL AND `person_id` NOT IN (SELECT `id` FROM `people`);
--> statement-breakpoint
DELETE FROM `tokens` WHERE `person_id` IS NOT NULL AND `person_id` NOT IN (SELECT `id` FROM `people`);
--> statement-breakpoint
DELETE FROM `favourites` WHERE `person_id` IS NOT NULL AND `person_id` NOT IN (SELECT `id` FROM `people`);
--> statement-breakpoint
DELETE FROM `favourites` WHERE `project_id` IS NOT NULL AND `project_id` NOT IN (SELECT `id` FROM `projects`);
--> statement-breakpoint
DELETE FROM `invitations` WHERE `person_id` IS NOT NULL AND `person_id` NOT IN (SELECT `id` FROM `people`);
--> statement-breakpoint
DELETE FROM `invitations` WHERE `project_id` IS NOT NULL AND `project_id` NOT IN (SELECT `id` FROM `projects`);
--> statement-breakpoint
DELETE FROM `password_links` WHERE `person_id` IS NOT NULL AND `person_id` NOT IN (SELECT `id` FROM `people`);
--> statement-breakpoint
DELETE FROM `mail_addresses` WHERE `person_id` IS NOT NULL AND `person_id` NOT IN (SELECT `id` FROM `people`);
--> statement-breakpoint
DELETE FROM `identities` WHERE `person_id` IS NOT NULL AND `person_id` NOT IN (SELECT `id` FROM `people`);
--> statement-breakpoint
DELETE FROM `recovery_words` WHERE `person_id` IS NOT NULL AND `person_id` NOT IN (SELECT `id` FROM `people`);
--> statement-breakpoint
DELETE FROM `second_factors` WHERE `person_id` IS NOT NULL AND `person_id` NOT IN (SELECT `id` FROM `people`);
--> statement-breakpoint
DELETE `less` FROM `grants` AS `less` JOIN `grants` AS `more` ON `more`.`person_id` = `less`.`person_id` AND `more`.`project_id` <=> `less`.`project_id` AND concat(field(`more`.`role`, 'reader', 'builder', 'releaser', 'maintainer', 'operator'), `more`.`id`) > concat(field(`less`.`role`, 'reader', 'builder', 'releaser', 'maintainer', 'operator'), `less`.`id`);
--> statement-breakpoint
ALTER TABLE `accepted_recipes`
  MODIFY COLUMN `project_id` uuid NOT NULL,
  MODIFY COLUMN `person_id` uuid NOT NULL;
--> statement-breakpoint
ALTER TABLE `artifacts`
  MODIFY COLUMN `digest` varbinary(64) NOT NULL;
--> statement-breakpoint
UPDATE `artifacts` SET
  `digest` = if(length(`digest`) in (40, 64), unhex(`digest`), `digest`);
--> statement-breakpoint
ALTER TABLE `artifacts`
  MODIFY COLUMN `project_id` uuid NOT NULL,
  MODIFY COLUMN `digest` binary(32) NOT NULL,
  MODIFY COLUMN `build_id` uuid NOT NULL;
--> statement-breakpoint
ALTER TABLE `attempt_steps`
  MODIFY COLUMN `attempt_id` uuid NOT NULL,
  MODIFY COLUMN `state` enum('waiting','running','passed','reused','flaky','warned','failed','skipped','stopped') NOT NULL;
--> statement-breakpoint
ALTER TABLE `attempts`
  MODIFY COLUMN `credential_hash` varbinary(64) NOT NULL;
--> statement-breakpoint
UPDATE `attempts` SET
  `credential_hash` = if(length(`credential_hash`) in (40, 64), unhex(`credential_hash`), `credential_hash`);
--> statement-breakpoint
ALTER TABLE `attempts`
  MODIFY COLUMN `id` uuid NOT NULL,
  MODIFY COLUMN `build_id` uuid NOT NULL,
  MODIFY COLUMN `runner_id` uuid NOT NULL,
  MODIFY COLUMN `instance` uuid NOT NULL,
  MODIFY COLUMN `credential_hash` binary(32) NOT NULL,
  MODIFY COLUMN `state` enum('running','passed','failed','lost','cancelled') NOT NULL;
--> statement-breakpoint
ALTER TABLE `builds`
  MODIFY COLUMN `commit_id` varbinary(64) NOT NULL,
  MODIFY COLUMN `artifact` varbinary(64),
  MODIFY COLUMN `input_key` varbinary(64);
--> statement-breakpoint
UPDATE `builds` SET
  `commit_id` = if(length(`commit_id`) in (40, 64), unhex(`commit_id`), `commit_id`),
  `artifact` = if(length(`artifact`) in (40, 64), unhex(`artifact`), `artifact`),
  `input_key` = if(length(`input_key`) in (40, 64), unhex(`input_key`), `input_key`);
--> statement-breakpoint
ALTER TABLE `builds`
  MODIFY COLUMN `id` uuid NOT NULL,
  MODIFY COLUMN `project_id` uuid NOT NULL,
  MODIFY COLUMN `state` enum('queued','waiting','running','reused','passed','failed','cancelled') NOT NULL,
  MODIFY COLUMN `commit_id` varbinary(32) NOT NULL,
  MODIFY COLUMN `change_id` uuid,
  MODIFY COLUMN `begun_by` uuid,
  MODIFY COLUMN `artifact` binary(32),
  MODIFY COLUMN `input_key` binary(32),
  MODIFY COLUMN `earlier` enum('used','left','compared') NOT NULL DEFAULT 'used',
  MODIFY COLUMN `trust` enum('trusted','outsider') NOT NULL DEFAULT 'trusted';
--> statement-breakpoint
ALTER TABLE `changes`
  MODIFY COLUMN `from_commit` varbinary(64),
  MODIFY COLUMN `to_commit` varbinary(64);
--> statement-breakpoint
UPDATE `changes` SET
  `from_commit` = if(length(`from_commit`) in (40, 64), unhex(`from_commit`), `from_commit`),
  `to_commit` = if(length(`to_commit`) in (40, 64), unhex(`to_commit`), `to_commit`);
--> statement-breakpoint
ALTER TABLE `changes`
  MODIFY COLUMN `id` uuid NOT NULL,
  MODIFY COLUMN `repository_id` uuid NOT NULL,
  MODIFY COLUMN `from_commit` varbinary(32),
  MODIFY COLUMN `to_commit` varbinary(32),
  MODIFY COLUMN `doorbell` enum('push','poll','person','start') NOT NULL,
  MODIFY COLUMN `actor_id` uuid;
--> statement-breakpoint
ALTER TABLE `deploys`
  MODIFY COLUMN `commit_id` varbinary(64) NOT NULL,
  MODIFY COLUMN `artifact` varbinary(64) NOT NULL,
  MODIFY COLUMN `call` varbinary(64);
--> statement-breakpoint
UPDATE `deploys` SET
  `commit_id` = if(length(`commit_id`) in (40, 64), unhex(`commit_id`), `commit_id`),
  `artifact` = if(length(`artifact`) in (40, 64), unhex(`artifact`), `artifact`),
  `call` = if(length(`call`) in (40, 64), unhex(`call`), `call`);
--> statement-breakpoint
ALTER TABLE `deploys`
  MODIFY COLUMN `id` uuid NOT NULL,
  MODIFY COLUMN `environment_id` uuid NOT NULL,
  MODIFY COLUMN `kind` enum('automatic','let-in','promoted','rolled-back') NOT NULL,
  MODIFY COLUMN `build_id` uuid NOT NULL,
  MODIFY COLUMN `commit_id` varbinary(32) NOT NULL,
  MODIFY COLUMN `artifact` binary(32) NOT NULL,
  MODIFY COLUMN `previous_deploy_id` uuid,
  MODIFY COLUMN `move_id` uuid NOT NULL,
  MODIFY COLUMN `actor_id` uuid,
  MODIFY COLUMN `call` binary(32);
--> statement-breakpoint
ALTER TABLE `environments`
  MODIFY COLUMN `head` varbinary(64),
  MODIFY COLUMN `link_hash` varbinary(64);
--> statement-breakpoint
UPDATE `environments` SET
  `head` = if(length(`head`) in (40, 64), unhex(`head`), `head`),
  `link_hash` = if(length(`link_hash`) in (40, 64), unhex(`link_hash`), `link_hash`);
--> statement-breakpoint
ALTER TABLE `environments`
  MODIFY COLUMN `id` uuid NOT NULL,
  MODIFY COLUMN `project_id` uuid NOT NULL,
  MODIFY COLUMN `head` varbinary(32),
  MODIFY COLUMN `kept_by` uuid,
  MODIFY COLUMN `link_hash` binary(32),
  MODIFY COLUMN `link_by` uuid,
  MODIFY COLUMN `ended_because` enum('closed','untouched','crowded','asked','unruled','project'),
  MODIFY COLUMN `ended_by` uuid,
  MODIFY COLUMN `ended_deploy_id` uuid,
  MODIFY COLUMN `serves_deploy_id` uuid;
--> statement-breakpoint
ALTER TABLE `evidence`
  MODIFY COLUMN `id` uuid NOT NULL,
  MODIFY COLUMN `project_id` uuid NOT NULL,
  MODIFY COLUMN `build_id` uuid NOT NULL,
  MODIFY COLUMN `kind` enum('tests','findings','differences') NOT NULL;
--> statement-breakpoint
ALTER TABLE `favourites`
  MODIFY COLUMN `person_id` uuid NOT NULL,
  MODIFY COLUMN `project_id` uuid NOT NULL;
--> statement-breakpoint
ALTER TABLE `file_findings`
  MODIFY COLUMN `file` varbinary(64) NOT NULL;
--> statement-breakpoint
UPDATE `file_findings` SET
  `file` = if(length(`file`) in (40, 64), unhex(`file`), `file`);
--> statement-breakpoint
ALTER TABLE `file_findings`
  MODIFY COLUMN `file` binary(32) NOT NULL;
--> statement-breakpoint
ALTER TABLE `former_names`
  MODIFY COLUMN `id` uuid NOT NULL,
  MODIFY COLUMN `project_id` uuid NOT NULL,
  MODIFY COLUMN `environment_id` uuid;
--> statement-breakpoint
ALTER TABLE `grants`
  MODIFY COLUMN `id` uuid NOT NULL,
  MODIFY COLUMN `person_id` uuid NOT NULL,
  MODIFY COLUMN `project_id` uuid,
  MODIFY COLUMN `role` enum('reader','builder','releaser','maintainer','operator') NOT NULL;
--> statement-breakpoint
ALTER TABLE `group_members`
  MODIFY COLUMN `group_id` uuid NOT NULL,
  MODIFY COLUMN `person_id` uuid NOT NULL;
--> statement-breakpoint
ALTER TABLE `holds`
  MODIFY COLUMN `id` uuid NOT NULL,
  MODIFY COLUMN `environment_id` uuid NOT NULL,
  MODIFY COLUMN `deploy_id` uuid,
  MODIFY COLUMN `person_id` uuid,
  MODIFY COLUMN `lifted_by` uuid;
--> statement-breakpoint
ALTER TABLE `identities`
  MODIFY COLUMN `person_id` uuid NOT NULL;
--> statement-breakpoint
ALTER TABLE `inspections`
  MODIFY COLUMN `artifact` varbinary(64) NOT NULL;
--> statement-breakpoint
UPDATE `inspections` SET
  `artifact` = if(length(`artifact`) in (40, 64), unhex(`artifact`), `artifact`);
--> statement-breakpoint
ALTER TABLE `inspections`
  MODIFY COLUMN `project_id` uuid NOT NULL,
  MODIFY COLUMN `artifact` binary(32) NOT NULL;
--> statement-breakpoint
ALTER TABLE `intakes`
  MODIFY COLUMN `environment_id` uuid NOT NULL,
  MODIFY COLUMN `change_id` uuid,
  MODIFY COLUMN `build_id` uuid NOT NULL,
  MODIFY COLUMN `state` enum('waiting','offered','deployed','held','overtaken','failed') NOT NULL;
--> statement-breakpoint
ALTER TABLE `invitations`
  MODIFY COLUMN `hash` varbinary(64) NOT NULL;
--> statement-breakpoint
UPDATE `invitations` SET
  `hash` = if(length(`hash`) in (40, 64), unhex(`hash`), `hash`);
--> statement-breakpoint
ALTER TABLE `invitations`
  MODIFY COLUMN `id` uuid NOT NULL,
  MODIFY COLUMN `hash` binary(32) NOT NULL,
  MODIFY COLUMN `project_id` uuid,
  MODIFY COLUMN `role` enum('reader','builder','releaser','maintainer','operator') NOT NULL,
  MODIFY COLUMN `person_id` uuid,
  MODIFY COLUMN `used_by` uuid;
--> statement-breakpoint
ALTER TABLE `keyed_calls`
  MODIFY COLUMN `call` varbinary(64) NOT NULL;
--> statement-breakpoint
UPDATE `keyed_calls` SET
  `call` = if(length(`call`) in (40, 64), unhex(`call`), `call`);
--> statement-breakpoint
ALTER TABLE `keyed_calls`
  MODIFY COLUMN `actor_id` uuid NOT NULL,
  MODIFY COLUMN `call` binary(32) NOT NULL;
--> statement-breakpoint
ALTER TABLE `lasting_files`
  MODIFY COLUMN `artifact` varbinary(64) NOT NULL,
  MODIFY COLUMN `address_key` varbinary(64) NOT NULL,
  MODIFY COLUMN `file` varbinary(64) NOT NULL;
--> statement-breakpoint
UPDATE `lasting_files` SET
  `artifact` = if(length(`artifact`) in (40, 64), unhex(`artifact`), `artifact`),
  `address_key` = if(length(`address_key`) in (40, 64), unhex(`address_key`), `address_key`),
  `file` = if(length(`file`) in (40, 64), unhex(`file`), `file`);
--> statement-breakpoint
ALTER TABLE `lasting_files`
  MODIFY COLUMN `artifact` binary(32) NOT NULL,
  MODIFY COLUMN `address_key` binary(32) NOT NULL,
  MODIFY COLUMN `file` binary(32) NOT NULL;
--> statement-breakpoint
ALTER TABLE `leases`
  MODIFY COLUMN `holder` uuid NOT NULL;
--> statement-breakpoint
ALTER TABLE `log_chunks`
  MODIFY COLUMN `attempt_id` uuid NOT NULL;
--> statement-breakpoint
ALTER TABLE `log_entries`
  MODIFY COLUMN `leaf` varbinary(64) NOT NULL;
--> statement-breakpoint
UPDATE `log_entries` SET
  `leaf` = if(length(`leaf`) in (40, 64), unhex(`leaf`), `leaf`);
--> statement-breakpoint
ALTER TABLE `log_entries`
  MODIFY COLUMN `project_id` uuid,
  MODIFY COLUMN `leaf` binary(32) NOT NULL;
--> statement-breakpoint
ALTER TABLE `machines`
  MODIFY COLUMN `token_hash` varbinary(64) NOT NULL;
--> statement-breakpoint
UPDATE `machines` SET
  `token_hash` = if(length(`token_hash`) in (40, 64), unhex(`token_hash`), `token_hash`);
--> statement-breakpoint
ALTER TABLE `machines`
  MODIFY COLUMN `id` uuid NOT NULL,
  MODIFY COLUMN `role` enum('runner','edge') NOT NULL,
  MODIFY COLUMN `token_hash` binary(32) NOT NULL,
  MODIFY COLUMN `instance` uuid;
--> statement-breakpoint
ALTER TABLE `mail_addresses`
  MODIFY COLUMN `key_hash` varbinary(64);
--> statement-breakpoint
UPDATE `mail_addresses` SET
  `key_hash` = if(length(`key_hash`) in (40, 64), unhex(`key_hash`), `key_hash`);
--> statement-breakpoint
ALTER TABLE `mail_addresses`
  MODIFY COLUMN `id` uuid NOT NULL,
  MODIFY COLUMN `person_id` uuid NOT NULL,
  MODIFY COLUMN `key_hash` binary(32);
--> statement-breakpoint
ALTER TABLE `maps`
  MODIFY COLUMN `project_id` uuid NOT NULL,
  MODIFY COLUMN `person_id` uuid;
--> statement-breakpoint
ALTER TABLE `missed_paths`
  MODIFY COLUMN `path_key` varbinary(64) NOT NULL;
--> statement-breakpoint
UPDATE `missed_paths` SET
  `path_key` = if(length(`path_key`) in (40, 64), unhex(`path_key`), `path_key`);
--> statement-breakpoint
ALTER TABLE `missed_paths`
  MODIFY COLUMN `environment_id` uuid NOT NULL,
  MODIFY COLUMN `path_key` binary(32) NOT NULL;
--> statement-breakpoint
ALTER TABLE `password_links`
  MODIFY COLUMN `hash` varbinary(64) NOT NULL;
--> statement-breakpoint
UPDATE `password_links` SET
  `hash` = if(length(`hash`) in (40, 64), unhex(`hash`), `hash`);
--> statement-breakpoint
ALTER TABLE `password_links`
  MODIFY COLUMN `hash` binary(32) NOT NULL,
  MODIFY COLUMN `person_id` uuid NOT NULL,
  MODIFY COLUMN `made_by` uuid NOT NULL;
--> statement-breakpoint
ALTER TABLE `people`
  MODIFY COLUMN `id` uuid NOT NULL,
  MODIFY COLUMN `kind` enum('person','group','service') NOT NULL DEFAULT 'person',
  MODIFY COLUMN `home_id` uuid;
--> statement-breakpoint
ALTER TABLE `pictures`
  MODIFY COLUMN `before_artifact` varbinary(64) NOT NULL,
  MODIFY COLUMN `after_artifact` varbinary(64) NOT NULL;
--> statement-breakpoint
UPDATE `pictures` SET
  `before_artifact` = if(length(`before_artifact`) in (40, 64), unhex(`before_artifact`), `before_artifact`),
  `after_artifact` = if(length(`after_artifact`) in (40, 64), unhex(`after_artifact`), `after_artifact`);
--> statement-breakpoint
ALTER TABLE `pictures`
  MODIFY COLUMN `id` uuid NOT NULL,
  MODIFY COLUMN `project_id` uuid NOT NULL,
  MODIFY COLUMN `before_artifact` binary(32) NOT NULL,
  MODIFY COLUMN `after_artifact` binary(32) NOT NULL,
  MODIFY COLUMN `state` enum('wanted','taking','taken','failed') NOT NULL;
--> statement-breakpoint
ALTER TABLE `projects`
  MODIFY COLUMN `unbuilt` varbinary(64);
--> statement-breakpoint
UPDATE `projects` SET
  `unbuilt` = if(length(`unbuilt`) in (40, 64), unhex(`unbuilt`), `unbuilt`);
--> statement-breakpoint
ALTER TABLE `projects`
  MODIFY COLUMN `id` uuid NOT NULL,
  MODIFY COLUMN `repository_id` uuid NOT NULL,
  MODIFY COLUMN `unbuilt` varbinary(32);
--> statement-breakpoint
ALTER TABLE `provenances`
  MODIFY COLUMN `artifact` varbinary(64) NOT NULL;
--> statement-breakpoint
UPDATE `provenances` SET
  `artifact` = if(length(`artifact`) in (40, 64), unhex(`artifact`), `artifact`);
--> statement-breakpoint
ALTER TABLE `provenances`
  MODIFY COLUMN `project_id` uuid NOT NULL,
  MODIFY COLUMN `build_id` uuid NOT NULL,
  MODIFY COLUMN `artifact` binary(32) NOT NULL;
--> statement-breakpoint
ALTER TABLE `pull_request_verdicts`
  MODIFY COLUMN `commit_id` varbinary(64) NOT NULL;
--> statement-breakpoint
UPDATE `pull_request_verdicts` SET
  `commit_id` = if(length(`commit_id`) in (40, 64), unhex(`commit_id`), `commit_id`);
--> statement-breakpoint
ALTER TABLE `pull_request_verdicts`
  MODIFY COLUMN `pull_request_id` uuid NOT NULL,
  MODIFY COLUMN `project_id` uuid NOT NULL,
  MODIFY COLUMN `commit_id` varbinary(32) NOT NULL,
  MODIFY COLUMN `person_id` uuid NOT NULL,
  MODIFY COLUMN `verdict` enum('looks-right','not-yet') NOT NULL;
--> statement-breakpoint
ALTER TABLE `pull_request_words`
  MODIFY COLUMN `commit_id` varbinary(64) NOT NULL;
--> statement-breakpoint
UPDATE `pull_request_words` SET
  `commit_id` = if(length(`commit_id`) in (40, 64), unhex(`commit_id`), `commit_id`);
--> statement-breakpoint
ALTER TABLE `pull_request_words`
  MODIFY COLUMN `pull_request_id` uuid NOT NULL,
  MODIFY COLUMN `project_id` uuid NOT NULL,
  MODIFY COLUMN `commit_id` varbinary(32) NOT NULL,
  MODIFY COLUMN `person_id` uuid NOT NULL;
--> statement-breakpoint
ALTER TABLE `pull_requests`
  MODIFY COLUMN `head` varbinary(64);
--> statement-breakpoint
UPDATE `pull_requests` SET
  `head` = if(length(`head`) in (40, 64), unhex(`head`), `head`);
--> statement-breakpoint
ALTER TABLE `pull_requests`
  MODIFY COLUMN `id` uuid NOT NULL,
  MODIFY COLUMN `repository_id` uuid NOT NULL,
  MODIFY COLUMN `state` enum('open','merged','closed') NOT NULL DEFAULT 'open',
  MODIFY COLUMN `head` varbinary(32),
  MODIFY COLUMN `person_id` uuid NOT NULL;
--> statement-breakpoint
ALTER TABLE `recovery_words`
  MODIFY COLUMN `hash` varbinary(64) NOT NULL;
--> statement-breakpoint
UPDATE `recovery_words` SET
  `hash` = if(length(`hash`) in (40, 64), unhex(`hash`), `hash`);
--> statement-breakpoint
ALTER TABLE `recovery_words`
  MODIFY COLUMN `hash` binary(32) NOT NULL,
  MODIFY COLUMN `person_id` uuid NOT NULL;
--> statement-breakpoint
ALTER TABLE `refs`
  MODIFY COLUMN `commit_id` varbinary(64) NOT NULL;
--> statement-breakpoint
UPDATE `refs` SET
  `commit_id` = if(length(`commit_id`) in (40, 64), unhex(`commit_id`), `commit_id`);
--> statement-breakpoint
ALTER TABLE `refs`
  MODIFY COLUMN `repository_id` uuid NOT NULL,
  MODIFY COLUMN `commit_id` varbinary(32) NOT NULL;
--> statement-breakpoint
ALTER TABLE `repositories`
  MODIFY COLUMN `id` uuid NOT NULL,
  MODIFY COLUMN `kind` enum('hosted','http','ssh','path') NOT NULL,
  MODIFY COLUMN `home_id` uuid NOT NULL;
--> statement-breakpoint
ALTER TABLE `repository_credentials`
  MODIFY COLUMN `repository_id` uuid NOT NULL,
  MODIFY COLUMN `kind` enum('token','key') NOT NULL DEFAULT 'token',
  MODIFY COLUMN `set_by` uuid NOT NULL;
--> statement-breakpoint
ALTER TABLE `repository_keys`
  MODIFY COLUMN `id` uuid NOT NULL,
  MODIFY COLUMN `made_by` uuid NOT NULL;
--> statement-breakpoint
ALTER TABLE `second_factors`
  MODIFY COLUMN `person_id` uuid NOT NULL;
--> statement-breakpoint
ALTER TABLE `sessions`
  MODIFY COLUMN `hash` varbinary(64) NOT NULL;
--> statement-breakpoint
UPDATE `sessions` SET
  `hash` = if(length(`hash`) in (40, 64), unhex(`hash`), `hash`);
--> statement-breakpoint
ALTER TABLE `sessions`
  MODIFY COLUMN `hash` binary(32) NOT NULL,
  MODIFY COLUMN `person_id` uuid NOT NULL;
--> statement-breakpoint
ALTER TABLE `sign_in_rules`
  MODIFY COLUMN `factor_from` enum('reader','builder','releaser','maintainer','operator');
--> statement-breakpoint
ALTER TABLE `step_results`
  MODIFY COLUMN `key` varbinary(64) NOT NULL,
  MODIFY COLUMN `output` varbinary(64) NOT NULL;
--> statement-breakpoint
UPDATE `step_results` SET
  `key` = if(length(`key`) in (40, 64), unhex(`key`), `key`),
  `output` = if(length(`output`) in (40, 64), unhex(`output`), `output`);
--> statement-breakpoint
ALTER TABLE `step_results`
  MODIFY COLUMN `project_id` uuid NOT NULL,
  MODIFY COLUMN `key` binary(32) NOT NULL,
  MODIFY COLUMN `output` binary(32) NOT NULL,
  MODIFY COLUMN `build_id` uuid NOT NULL;
--> statement-breakpoint
ALTER TABLE `tokens`
  MODIFY COLUMN `hash` varbinary(64) NOT NULL;
--> statement-breakpoint
UPDATE `tokens` SET
  `hash` = if(length(`hash`) in (40, 64), unhex(`hash`), `hash`);
--> statement-breakpoint
ALTER TABLE `tokens`
  MODIFY COLUMN `id` uuid NOT NULL,
  MODIFY COLUMN `hash` binary(32) NOT NULL,
  MODIFY COLUMN `person_id` uuid NOT NULL,
  MODIFY COLUMN `kind` enum('all','git') NOT NULL,
  MODIFY COLUMN `made_with` uuid;
--> statement-breakpoint
ALTER TABLE `uploads`
  MODIFY COLUMN `id` uuid NOT NULL,
  MODIFY COLUMN `attempt_id` uuid NOT NULL;
--> statement-breakpoint
ALTER TABLE `variables`
  MODIFY COLUMN `project_id` uuid NOT NULL,
  MODIFY COLUMN `kind` enum('plain','secret') NOT NULL,
  MODIFY COLUMN `set_by` uuid NOT NULL;
--> statement-breakpoint
ALTER TABLE `visits`
  MODIFY COLUMN `environment_id` uuid NOT NULL,
  MODIFY COLUMN `span` enum('minute','hour','day') NOT NULL;
--> statement-breakpoint
ALTER TABLE `grants` ADD `on_what` uuid GENERATED ALWAYS AS ((ifnull(project_id, '00000000-0000-0000-0000-000000000000'))) STORED;
--> statement-breakpoint
ALTER TABLE `grants` ADD CONSTRAINT `grants_once` UNIQUE(`person_id`,`on_what`);
--> statement-breakpoint
DROP INDEX `grants_person` ON `grants`;
--> statement-breakpoint
ALTER TABLE `accepted_recipes` ADD CONSTRAINT `accepted_recipes_project_id_projects_id_fk` FOREIGN KEY (`project_id`) REFERENCES `projects`(`id`);
--> statement-breakpoint
ALTER TABLE `attempts` ADD CONSTRAINT `attempts_build_id_builds_id_fk` FOREIGN KEY (`build_id`) REFERENCES `builds`(`id`);
--> statement-breakpoint
ALTER TABLE `builds` ADD CONSTRAINT `builds_project_id_projects_id_fk` FOREIGN KEY (`project_id`) REFERENCES `projects`(`id`);
--> statement-breakpoint
ALTER TABLE `favourites` ADD CONSTRAINT `favourites_person_id_people_id_fk` FOREIGN KEY (`person_id`) REFERENCES `people`(`id`);
--> statement-breakpoint
ALTER TABLE `favourites` ADD CONSTRAINT `favourites_project_id_projects_id_fk` FOREIGN KEY (`project_id`) REFERENCES `projects`(`id`);
--> statement-breakpoint
ALTER TABLE `former_names` ADD CONSTRAINT `former_names_project_id_projects_id_fk` FOREIGN KEY (`project_id`) REFERENCES `projects`(`id`);
--> statement-breakpoint
ALTER TABLE `grants` ADD CONSTRAINT `grants_person_id_people_id_fk` FOREIGN KEY (`person_id`) REFERENCES `people`(`id`);
--> statement-breakpoint
ALTER TABLE `grants` ADD CONSTRAINT `grants_project_id_projects_id_fk` FOREIGN KEY (`project_id`) REFERENCES `projects`(`id`);
--> statement-breakpoint
ALTER TABLE `group_members` ADD CONSTRAINT `group_members_group_id_people_id_fk` FOREIGN KEY (`group_id`) REFERENCES `people`(`id`);
--> statement-breakpoint
ALTER TABLE `group_members` ADD CONSTRAINT `group_members_person_id_people_id_fk` FOREIGN KEY (`person_id`) REFERENCES `people`(`id`);
--> statement-breakpoint
ALTER TABLE `identities` ADD CONSTRAINT `identities_person_id_people_id_fk` FOREIGN KEY (`person_id`) REFERENCES `people`(`id`);
--> statement-breakpoint
ALTER TABLE `invitations` ADD CONSTRAINT `invitations_project_id_projects_id_fk` FOREIGN KEY (`project_id`) REFERENCES `projects`(`id`);
--> statement-breakpoint
ALTER TABLE `invitations` ADD CONSTRAINT `invitations_person_id_people_id_fk` FOREIGN KEY (`person_id`) REFERENCES `people`(`id`);
--> statement-breakpoint
ALTER TABLE `mail_addresses` ADD CONSTRAINT `mail_addresses_person_id_people_id_fk` FOREIGN KEY (`person_id`) REFERENCES `people`(`id`);
--> statement-breakpoint
ALTER TABLE `maps` ADD CONSTRAINT `maps_project_id_projects_id_fk` FOREIGN KEY (`project_id`) REFERENCES `projects`(`id`);
--> statement-breakpoint
ALTER TABLE `password_links` ADD CONSTRAINT `password_links_person_id_people_id_fk` FOREIGN KEY (`person_id`) REFERENCES `people`(`id`);
--> statement-breakpoint
ALTER TABLE `people` ADD CONSTRAINT `people_home_id_projects_id_fk` FOREIGN KEY (`home_id`) REFERENCES `projects`(`id`);
--> statement-breakpoint
ALTER TABLE `projects` ADD CONSTRAINT `projects_repository_id_repositories_id_fk` FOREIGN KEY (`repository_id`) REFERENCES `repositories`(`id`);
--> statement-breakpoint
ALTER TABLE `pull_request_verdicts` ADD CONSTRAINT `pull_request_verdicts_pull_request_id_pull_requests_id_fk` FOREIGN KEY (`pull_request_id`) REFERENCES `pull_requests`(`id`);
--> statement-breakpoint
ALTER TABLE `pull_request_verdicts` ADD CONSTRAINT `pull_request_verdicts_project_id_projects_id_fk` FOREIGN KEY (`project_id`) REFERENCES `projects`(`id`);
--> statement-breakpoint
ALTER TABLE `pull_request_verdicts` ADD CONSTRAINT `pull_request_verdicts_person_id_people_id_fk` FOREIGN KEY (`person_id`) REFERENCES `people`(`id`);
--> statement-breakpoint
ALTER TABLE `pull_request_words` ADD CONSTRAINT `pull_request_words_pull_request_id_pull_requests_id_fk` FOREIGN KEY (`pull_request_id`) REFERENCES `pull_requests`(`id`);
--> statement-breakpoint
ALTER TABLE `pull_request_words` ADD CONSTRAINT `pull_request_words_project_id_projects_id_fk` FOREIGN KEY (`project_id`) REFERENCES `projects`(`id`);
--> statement-breakpoint
ALTER TABLE `pull_request_words` ADD CONSTRAINT `pull_request_words_person_id_people_id_fk` FOREIGN KEY (`person_id`) REFERENCES `people`(`id`);
--> statement-breakpoint
ALTER TABLE `pull_requests` ADD CONSTRAINT `pull_requests_repository_id_repositories_id_fk` FOREIGN KEY (`repository_id`) REFERENCES `repositories`(`id`);
--> statement-breakpoint
ALTER TABLE `pull_requests` ADD CONSTRAINT `pull_requests_person_id_people_id_fk` FOREIGN KEY (`person_id`) REFERENCES `people`(`id`);
--> statement-breakpoint
ALTER TABLE `recovery_words` ADD CONSTRAINT `recovery_words_person_id_people_id_fk` FOREIGN KEY (`person_id`) REFERENCES `people`(`id`);
--> statement-breakpoint
ALTER TABLE `repository_credentials` ADD CONSTRAINT `repository_credentials_repository_id_repositories_id_fk` FOREIGN KEY (`repository_id`) REFERENCES `repositories`(`id`);
--> statement-breakpoint
ALTER TABLE `second_factors` ADD CONSTRAINT `second_factors_person_id_people_id_fk` FOREIGN KEY (`person_id`) REFERENCES `people`(`id`);
--> statement-breakpoint
ALTER TABLE `sessions` ADD CONSTRAINT `sessions_person_id_people_id_fk` FOREIGN KEY (`person_id`) REFERENCES `people`(`id`);
--> statement-breakpoint
ALTER TABLE `tokens` ADD CONSTRAINT `tokens_person_id_people_id_fk` FOREIGN KEY (`person_id`) REFERENCES `people`(`id`);
--> statement-breakpoint
ALTER TABLE `variables` ADD CONSTRAINT `variables_project_id_projects_id_fk` FOREIGN KEY (`project_id`) REFERENCES `projects`(`id`);
--> statement-breakpoint
DROP INDEX `pull_requests_ended` ON `pull_requests`;
--> statement-breakpoint
CREATE INDEX `pull_requests_ended` ON `pull_requests` (`repository_id`,`ended_at`,`number`);
