/*M!999999\- enable the sandbox mode */ 
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `__drizzle_migrations` (
  `id` bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  `hash` text NOT NULL,
  `created_at` bigint(20) DEFAULT NULL,
  PRIMARY KEY (`id`)
) ENGINE=InnoDB AUTO_INCREMENT=10 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `__drizzle_migrations` VALUES (1,'9de6a60473c4443da69f2c741c6e7bb116ca114df62bdad20b3f870b40f18621',1795429566826);
INSERT INTO `__drizzle_migrations` VALUES (2,'6214dffbf9ac113ef74e635a20255b36945214b6258f367024626b18bc51339a',1795435706023);
INSERT INTO `__drizzle_migrations` VALUES (3,'f569218163a3647633082a16c6c18a22b04cd8851df5e140372359c05e06f157',1795437033665);
INSERT INTO `__drizzle_migrations` VALUES (4,'ab24eaaec6cf8f02c5daa94808c64b66176dbab9daca9a0533532e14a9e405f3',1795440976977);
INSERT INTO `__drizzle_migrations` VALUES (5,'b4215597b4a56442c311df58b83948b240b782f5c865cd3a3d060a240abba7b9',1795446772995);
INSERT INTO `__drizzle_migrations` VALUES (6,'1d28963d304b715c034bdc3df7bb15f00c94956709f94781f7ca8660f094ec14',1795447839881);
INSERT INTO `__drizzle_migrations` VALUES (7,'f6e0fe6d50d6cdb56fce1b0f2ace19fdbc9b696908d0358c11cd7aa1c692b191',1795824468474);
INSERT INTO `__drizzle_migrations` VALUES (8,'6d72f3d86de2a330367e3703c685283249fb274e5da987a93b8881cd18ee4a05',1795826958186);
INSERT INTO `__drizzle_migrations` VALUES (9,'0e35353d1fb136fbcae76923a8da4aac4bc846b0c31f8d313aa565b4a9c9d2aa',1795834488719);
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `accepted_recipes` (
  `project_id` varchar(36) NOT NULL,
  `version` int(11) NOT NULL,
  `recipe` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`recipe`)),
  `person_id` varchar(36) NOT NULL,
  `at` bigint(20) NOT NULL,
  PRIMARY KEY (`project_id`,`version`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `artifacts` (
  `project_id` varchar(36) NOT NULL,
  `digest` varchar(64) NOT NULL,
  `build_id` varchar(36) NOT NULL,
  `files` int(11) NOT NULL,
  `bytes` bigint(20) NOT NULL,
  `stored_at` bigint(20) NOT NULL,
  `gone_at` bigint(20) DEFAULT NULL,
  PRIMARY KEY (`project_id`,`digest`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `artifacts` VALUES ('01a2242d-7a65-77aa-8312-ebc2b3d57620','70ee8527b0fafd3b17d610cb5f9e48b322983a4e97965995cb49c3f736d032b9','01a2242d-8019-77be-a0a0-fb911043990c',1,12,1795903291664,NULL);
INSERT INTO `artifacts` VALUES ('01a2242d-7a65-77aa-8312-ebc2b3d57620','faca324ddab14bf6a0b18cc1a7d9ed9d246b1b731069bab48da8e4c88436d2c9','01a2242d-7c18-7a30-89d6-5133f123b903',1,12,1795903291005,NULL);
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `attempt_steps` (
  `attempt_id` varchar(36) NOT NULL,
  `place` int(11) NOT NULL,
  `name` varchar(60) NOT NULL,
  `says` varchar(2000) NOT NULL,
  `state` varchar(12) NOT NULL,
  `started_at` bigint(20) DEFAULT NULL,
  `ended_at` bigint(20) DEFAULT NULL,
  `log_from` bigint(20) DEFAULT NULL,
  `after` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL CHECK (json_valid(`after`)),
  `tries` int(11) NOT NULL DEFAULT 1,
  `reused` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL CHECK (json_valid(`reused`)),
  PRIMARY KEY (`attempt_id`,`place`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `attempt_steps` VALUES ('01a2242d-7c2d-7590-970b-87b470df928f',0,'fetch','the tree of 8ea32e0bf292','passed',1795903290481,1795903290570,0,'[]',1,NULL);
INSERT INTO `attempt_steps` VALUES ('01a2242d-7c2d-7590-970b-87b470df928f',1,'pages','mkdir -p out && printf \'%s\' \'<h1>one</h1>\' > out/index.html\n','passed',1795903290572,1795903290644,0,'[]',1,NULL);
INSERT INTO `attempt_steps` VALUES ('01a2242d-7c2d-7590-970b-87b470df928f',2,'store','1 files of out','passed',1795903290645,1795903290662,NULL,NULL,1,NULL);
INSERT INTO `attempt_steps` VALUES ('01a2242d-7c2d-7590-970b-87b470df928f',3,'inspect','1 files: 0 errors, 0 warnings','passed',1795903290668,1795903291005,NULL,NULL,1,NULL);
INSERT INTO `attempt_steps` VALUES ('01a2242d-7c2d-7590-970b-87b470df928f',4,'look','does it answer at its own address?','passed',1795903290675,1795903290712,NULL,NULL,1,NULL);
INSERT INTO `attempt_steps` VALUES ('01a2242d-8024-7472-bb1c-d8c423ffdaf6',0,'fetch','the tree of ef4dfddc2a03','passed',1795903291458,1795903291553,0,'[]',1,NULL);
INSERT INTO `attempt_steps` VALUES ('01a2242d-8024-7472-bb1c-d8c423ffdaf6',1,'pages','mkdir -p out && printf \'%s\' \'<h1>two</h1>\' > out/index.html\n','passed',1795903291554,1795903291628,0,'[]',1,NULL);
INSERT INTO `attempt_steps` VALUES ('01a2242d-8024-7472-bb1c-d8c423ffdaf6',2,'store','1 files of out','passed',1795903291629,1795903291642,NULL,NULL,1,NULL);
INSERT INTO `attempt_steps` VALUES ('01a2242d-8024-7472-bb1c-d8c423ffdaf6',3,'inspect','1 files: 0 errors, 0 warnings','passed',1795903291648,1795903291661,NULL,NULL,1,NULL);
INSERT INTO `attempt_steps` VALUES ('01a2242d-8024-7472-bb1c-d8c423ffdaf6',4,'look','does it answer at its own address?','passed',1795903291651,1795903291664,NULL,NULL,1,NULL);
INSERT INTO `attempt_steps` VALUES ('01a2242d-8302-733d-b0f8-a7c54b70fb91',0,'fetch','the tree of 3d74c0ef16e5','passed',1795903292200,1795903292204,0,'[]',1,NULL);
INSERT INTO `attempt_steps` VALUES ('01a2242d-8302-733d-b0f8-a7c54b70fb91',1,'pages','exit 3\n','failed',1795903292204,1795903292277,0,'[]',1,NULL);
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `attempts` (
  `id` varchar(36) NOT NULL,
  `build_id` varchar(36) NOT NULL,
  `fence` int(11) NOT NULL,
  `runner_id` varchar(36) NOT NULL,
  `instance` varchar(36) NOT NULL,
  `credential_hash` varchar(64) NOT NULL,
  `state` varchar(12) NOT NULL,
  `lease_until` datetime(3) NOT NULL,
  `log_bytes` bigint(20) NOT NULL DEFAULT 0,
  `packed_log` longblob DEFAULT NULL,
  `line_offsets` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL CHECK (json_valid(`line_offsets`)),
  `segments` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL CHECK (json_valid(`segments`)),
  `tools` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL CHECK (json_valid(`tools`)),
  PRIMARY KEY (`id`),
  UNIQUE KEY `attempts_fence` (`build_id`,`fence`),
  UNIQUE KEY `attempts_credential` (`credential_hash`),
  KEY `attempts_lease` (`state`,`lease_until`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `attempts` VALUES ('01a2242d-7c2d-7590-970b-87b470df928f','01a2242d-7c18-7a30-89d6-5133f123b903',1,'01a2242d-752e-74ad-bed4-c5a432de2337','21bd8754-2c0f-4e60-897d-b6732cef8e16','989171594683dd107301350aa4d8fe90567379a36bd6eda65eb03631f2568c07','passed','2026-11-28 22:01:40.414',61,0x1F8B0800000000000003CBCD4EC92C52D02D50C82F2D515053532828CACC2B495350572D565750B7C930B4CBCF4BB5D1CF30B45357B003A9D1CFCC4B49ADD0CB28C9CDE1E20200E7DC43B33D000000,'[0,60,61]','[{\"offset\":0,\"step\":\"pages\",\"at\":1795903290620}]','{\"node\":\"v20.20.2\",\"npm\":\"11.19.1\",\"git\":\"2.39.5\",\"python3\":\"3.11.7\",\"hugo\":\"v0.111.3+extended\",\"system\":\"Debian GNU/Linux 12 (bookworm)\"}');
INSERT INTO `attempts` VALUES ('01a2242d-8024-7472-bb1c-d8c423ffdaf6','01a2242d-8019-77be-a0a0-fb911043990c',1,'01a2242d-752e-74ad-bed4-c5a432de2337','21bd8754-2c0f-4e60-897d-b6732cef8e16','47495781b8c62da68b5c0c192f889e74c18e4546022413bf79d75698efa9cf03','passed','2026-11-28 22:01:41.429',61,0x1F8B0800000000000003CBCD4EC92C52D02D50C82F2D515053532828CACC2B495350572D565750B7C930B42B29CFB7D1CF30B45357B003A9D1CFCC4B49ADD0CB28C9CDE1E20200B5E274153D000000,'[0,60,61]','[{\"offset\":0,\"step\":\"pages\",\"at\":1795903291616}]','{\"node\":\"v20.20.2\",\"npm\":\"11.19.1\",\"git\":\"2.39.5\",\"python3\":\"3.11.7\",\"hugo\":\"v0.111.3+extended\",\"system\":\"Debian GNU/Linux 12 (bookworm)\"}');
INSERT INTO `attempts` VALUES ('01a2242d-8302-733d-b0f8-a7c54b70fb91','01a2242d-82f4-7977-943b-2cc74571e7c9',1,'01a2242d-752e-74ad-bed4-c5a432de2337','21bd8754-2c0f-4e60-897d-b6732cef8e16','af7823a51ecf72bcd4684c684028ba3cba3629a6c97ed781a11adb9d7c7f047d','failed','2026-11-28 22:01:42.162',50,0x1F8B08000000000000034BADC82C5130E6E22A2E492D5028484C4F2D5648CD4B494D51484C2B492D5230D0335428B6524805A94ACE4F495530E60200ED2C4F9632000000,'[0,7,8,50]','[{\"offset\":0,\"step\":\"pages\",\"at\":1795903292240}]','{\"node\":\"v20.20.2\",\"npm\":\"11.19.1\",\"git\":\"2.39.5\",\"python3\":\"3.11.7\",\"hugo\":\"v0.111.3+extended\",\"system\":\"Debian GNU/Linux 12 (bookworm)\"}');
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `builds` (
  `id` varchar(36) NOT NULL,
  `project_id` varchar(36) NOT NULL,
  `number` int(11) NOT NULL,
  `state` varchar(12) NOT NULL,
  `ref` varchar(255) NOT NULL,
  `commit_id` varchar(64) NOT NULL,
  `subject` varchar(500) NOT NULL,
  `author` varchar(200) NOT NULL,
  `committed_at` bigint(20) NOT NULL,
  `cause` varchar(300) NOT NULL,
  `change_id` varchar(36) DEFAULT NULL,
  `recipe` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL CHECK (json_valid(`recipe`)),
  `queued_at` bigint(20) NOT NULL,
  `started_at` bigint(20) DEFAULT NULL,
  `ended_at` bigint(20) DEFAULT NULL,
  `artifact` varchar(64) DEFAULT NULL,
  `failure` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL CHECK (json_valid(`failure`)),
  `attempts` int(11) NOT NULL DEFAULT 0,
  `input_key` varchar(64) DEFAULT NULL,
  `reused_from` int(11) DEFAULT NULL,
  `earlier` varchar(10) NOT NULL DEFAULT 'used',
  `priority` int(11) NOT NULL DEFAULT 0,
  `overtaken_by` int(11) DEFAULT NULL,
  `needs` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL CHECK (json_valid(`needs`)),
  `recipe_name` varchar(60) NOT NULL DEFAULT 'site',
  `proposed_into` varchar(250) DEFAULT NULL,
  `trust` varchar(10) NOT NULL DEFAULT 'trusted',
  PRIMARY KEY (`id`),
  UNIQUE KEY `builds_number` (`project_id`,`number`),
  KEY `builds_state` (`state`,`id`),
  KEY `builds_input` (`project_id`,`input_key`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `builds` VALUES ('01a2242d-7c18-7a30-89d6-5133f123b903','01a2242d-7a65-77aa-8312-ebc2b3d57620',1,'passed','refs/heads/main','8ea32e0bf29218956a73277cd19bb75179c96b92','First timetable','Wren Adeyemi',1795903290000,'push to main','01a2242d-7c12-7261-be2b-796f58ca7d90','{\"recipe\":{\"name\":\"site\",\"for\":null,\"again\":null,\"beyond\":[],\"tools\":{\"node\":null},\"runner\":[],\"serve\":{\"site\":\"out\",\"entry\":\"index.html\",\"missing\":null},\"steps\":[{\"name\":\"pages\",\"run\":[\"mkdir -p out && printf \'%s\' \'<h1>one</h1>\' > out/index.html\\n\"],\"lends\":null,\"after\":[],\"network\":\"none\",\"in\":null,\"sets\":{},\"given\":[],\"reads\":null,\"writes\":null,\"caches\":[],\"tries\":1,\"for\":null,\"failure\":\"ends\",\"beside\":[],\"results\":{\"tests\":[],\"findings\":[]},\"borrows\":null,\"withinMs\":null}],\"beside\":[]},\"source\":{\"from\":\"file\",\"file\":\"vaquero.yaml\"}}',1795903290392,1795903290416,1795903291005,'faca324ddab14bf6a0b18cc1a7d9ed9d246b1b731069bab48da8e4c88436d2c9',NULL,1,'e449d40b73c0bec57011d7da9d12d4a8021596805082ea7c1ca8036b483a553a',NULL,'used',1,NULL,'[]','site',NULL,'trusted');
INSERT INTO `builds` VALUES ('01a2242d-8019-77be-a0a0-fb911043990c','01a2242d-7a65-77aa-8312-ebc2b3d57620',2,'passed','refs/heads/main','ef4dfddc2a036ce6805e6edf68c78632accd7173','Winter sailings','Wren Adeyemi',1795903291000,'push to main','01a2242d-8015-7a92-9dca-998a620542ef','{\"recipe\":{\"name\":\"site\",\"for\":null,\"again\":null,\"beyond\":[],\"tools\":{\"node\":null},\"runner\":[],\"serve\":{\"site\":\"out\",\"entry\":\"index.html\",\"missing\":null},\"steps\":[{\"name\":\"pages\",\"run\":[\"mkdir -p out && printf \'%s\' \'<h1>two</h1>\' > out/index.html\\n\"],\"lends\":null,\"after\":[],\"network\":\"none\",\"in\":null,\"sets\":{},\"given\":[],\"reads\":null,\"writes\":null,\"caches\":[],\"tries\":1,\"for\":null,\"failure\":\"ends\",\"beside\":[],\"results\":{\"tests\":[],\"findings\":[]},\"borrows\":null,\"withinMs\":null}],\"beside\":[]},\"source\":{\"from\":\"file\",\"file\":\"vaquero.yaml\"}}',1795903291417,1795903291430,1795903291664,'70ee8527b0fafd3b17d610cb5f9e48b322983a4e97965995cb49c3f736d032b9',NULL,1,'8588189225ebe4751feeda0a351d4505a96afc1063f28e84502868a16139bf1f',NULL,'used',1,NULL,'[]','site',NULL,'trusted');
INSERT INTO `builds` VALUES ('01a2242d-82f4-7977-943b-2cc74571e7c9','01a2242d-7a65-77aa-8312-ebc2b3d57620',3,'failed','refs/heads/main','3d74c0ef16e52f73f7d7a2770150942f973fbe8f','A broken page','Wren Adeyemi',1795903292000,'push to main','01a2242d-82f1-73b6-951e-0ecfcc01fada','{\"recipe\":{\"name\":\"site\",\"for\":null,\"again\":null,\"beyond\":[],\"tools\":{\"node\":null},\"runner\":[],\"serve\":{\"site\":\"out\",\"entry\":\"index.html\",\"missing\":null},\"steps\":[{\"name\":\"pages\",\"run\":[\"exit 3\\n\"],\"lends\":null,\"after\":[],\"network\":\"none\",\"in\":null,\"sets\":{},\"given\":[],\"reads\":null,\"writes\":null,\"caches\":[],\"tries\":1,\"for\":null,\"failure\":\"ends\",\"beside\":[],\"results\":{\"tests\":[],\"findings\":[]},\"borrows\":null,\"withinMs\":null}],\"beside\":[]},\"source\":{\"from\":\"file\",\"file\":\"vaquero.yaml\"}}',1795903292148,1795903292164,1795903292325,NULL,'{\"reason\":\"step\",\"step\":\"pages\",\"end\":{\"kind\":\"exit\",\"exitCode\":3},\"atProcessLimit\":false}',1,'6f7108302bdd5da604258423171cc91ddc0daac2a9b60b42812c0ae9e2cb7093',NULL,'used',1,NULL,'[]','site',NULL,'trusted');
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `changes` (
  `id` varchar(36) NOT NULL,
  `repository_id` varchar(36) NOT NULL,
  `look` int(11) NOT NULL,
  `ref` varchar(255) NOT NULL,
  `from_commit` varchar(64) DEFAULT NULL,
  `to_commit` varchar(64) DEFAULT NULL,
  `doorbell` varchar(20) NOT NULL,
  `actor_id` varchar(36) DEFAULT NULL,
  `at` bigint(20) NOT NULL,
  PRIMARY KEY (`id`),
  UNIQUE KEY `changes_once` (`repository_id`,`look`,`ref`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `changes` VALUES ('01a2242d-7c12-7261-be2b-796f58ca7d90','01a2242d-7a65-77aa-8312-ebc1e52aa10d',1,'refs/heads/main',NULL,'8ea32e0bf29218956a73277cd19bb75179c96b92','push','01a2242d-7a35-7862-9e99-3859a2fe56b7',1795903290386);
INSERT INTO `changes` VALUES ('01a2242d-8015-7a92-9dca-998a620542ef','01a2242d-7a65-77aa-8312-ebc1e52aa10d',2,'refs/heads/main','8ea32e0bf29218956a73277cd19bb75179c96b92','ef4dfddc2a036ce6805e6edf68c78632accd7173','push','01a2242d-7a35-7862-9e99-3859a2fe56b7',1795903291413);
INSERT INTO `changes` VALUES ('01a2242d-82f1-73b6-951e-0ecfcc01fada','01a2242d-7a65-77aa-8312-ebc1e52aa10d',3,'refs/heads/main','ef4dfddc2a036ce6805e6edf68c78632accd7173','3d74c0ef16e52f73f7d7a2770150942f973fbe8f','push','01a2242d-7a35-7862-9e99-3859a2fe56b7',1795903292145);
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `deploys` (
  `id` varchar(36) NOT NULL,
  `environment_id` varchar(36) NOT NULL,
  `number` int(11) NOT NULL,
  `kind` varchar(12) NOT NULL,
  `build_id` varchar(36) NOT NULL,
  `commit_id` varchar(64) NOT NULL,
  `artifact` varchar(64) NOT NULL,
  `configuration` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`configuration`)),
  `previous_deploy_id` varchar(36) DEFAULT NULL,
  `undoes_first` int(11) DEFAULT NULL,
  `undoes_last` int(11) DEFAULT NULL,
  `intake` int(11) NOT NULL,
  `move_id` varchar(36) NOT NULL,
  `actor_id` varchar(36) DEFAULT NULL,
  `through` varchar(20) NOT NULL,
  `reason` varchar(500) DEFAULT NULL,
  `committed_at` bigint(20) NOT NULL,
  `confirmed_at` bigint(20) DEFAULT NULL,
  `position` bigint(20) NOT NULL DEFAULT 0,
  PRIMARY KEY (`id`),
  UNIQUE KEY `deploys_number` (`environment_id`,`number`),
  KEY `deploys_at` (`environment_id`,`committed_at`,`number`),
  KEY `deploys_position` (`position`),
  KEY `deploys_unconfirmed` (`confirmed_at`,`position`),
  KEY `deploys_build` (`environment_id`,`build_id`,`number`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `deploys` VALUES ('01a2242d-7ea2-7d55-9101-4c9878a4a55a','01a2242d-7ab1-7cf3-a916-e2e1ddc41830',1,'automatic','01a2242d-7c18-7a30-89d6-5133f123b903','8ea32e0bf29218956a73277cd19bb75179c96b92','faca324ddab14bf6a0b18cc1a7d9ed9d246b1b731069bab48da8e4c88436d2c9','{}',NULL,NULL,NULL,1,'01a2242d-7ea5-7e8c-a75b-249eba4b847a','01a2242d-7a35-7862-9e99-3859a2fe56b7','git',NULL,1795903291042,1795903291073,9);
INSERT INTO `deploys` VALUES ('01a2242d-7f97-7d95-a05c-53579564b8f4','01a2242d-7ab1-7cf3-a916-e2e09c096333',1,'promoted','01a2242d-7c18-7a30-89d6-5133f123b903','8ea32e0bf29218956a73277cd19bb75179c96b92','faca324ddab14bf6a0b18cc1a7d9ed9d246b1b731069bab48da8e4c88436d2c9','{}',NULL,NULL,NULL,0,'01a2242d-7f98-7a93-bf95-b95f4838bd1b','01a2242d-7a35-7862-9e99-3859a2fe56b7','api',NULL,1795903291287,1795903291295,10);
INSERT INTO `deploys` VALUES ('01a2242d-812d-7e35-9b5a-5de214ad15c3','01a2242d-7ab1-7cf3-a916-e2e1ddc41830',2,'automatic','01a2242d-8019-77be-a0a0-fb911043990c','ef4dfddc2a036ce6805e6edf68c78632accd7173','70ee8527b0fafd3b17d610cb5f9e48b322983a4e97965995cb49c3f736d032b9','{}','01a2242d-7ea2-7d55-9101-4c9878a4a55a',NULL,NULL,2,'01a2242d-812f-7e44-93dd-0f6df39d4aa3','01a2242d-7a35-7862-9e99-3859a2fe56b7','git',NULL,1795903291693,1795903291707,14);
INSERT INTO `deploys` VALUES ('01a2242d-8244-70c0-b964-1aabe44d6ab8','01a2242d-7ab1-7cf3-a916-e2e09c096333',2,'promoted','01a2242d-8019-77be-a0a0-fb911043990c','ef4dfddc2a036ce6805e6edf68c78632accd7173','70ee8527b0fafd3b17d610cb5f9e48b322983a4e97965995cb49c3f736d032b9','{}','01a2242d-7f97-7d95-a05c-53579564b8f4',NULL,NULL,0,'01a2242d-8246-78e2-926e-912830543296','01a2242d-7a35-7862-9e99-3859a2fe56b7','api',NULL,1795903291972,1795903291983,15);
INSERT INTO `deploys` VALUES ('01a2242d-8470-7b6b-8c82-e04468985b12','01a2242d-7ab1-7cf3-a916-e2e09c096333',3,'rolled-back','01a2242d-7c18-7a30-89d6-5133f123b903','8ea32e0bf29218956a73277cd19bb75179c96b92','faca324ddab14bf6a0b18cc1a7d9ed9d246b1b731069bab48da8e4c88436d2c9','{}','01a2242d-8244-70c0-b964-1aabe44d6ab8',2,2,0,'01a2242d-8472-790e-8fff-d6377b2ee851','01a2242d-7a35-7862-9e99-3859a2fe56b7','api','Nobody finds the next sailing.',1795903292528,1795903292543,18);
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `environments` (
  `id` varchar(36) NOT NULL,
  `project_id` varchar(36) NOT NULL,
  `name` varchar(40) NOT NULL,
  `place` int(11) NOT NULL,
  `generation` int(11) NOT NULL DEFAULT 0,
  `intake` int(11) NOT NULL DEFAULT 0,
  `last_deploy` int(11) NOT NULL DEFAULT 0,
  `serves_deploy_id` varchar(36) DEFAULT NULL,
  `living` tinyint(1) DEFAULT 1,
  `overtaken` varchar(10) NOT NULL DEFAULT 'finish',
  PRIMARY KEY (`id`),
  UNIQUE KEY `environments_name` (`project_id`,`name`,`living`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `environments` VALUES ('01a2242d-7ab1-7cf3-a916-e2e09c096333','01a2242d-7a65-77aa-8312-ebc2b3d57620','production',0,3,0,3,'01a2242d-8470-7b6b-8c82-e04468985b12',1,'finish');
INSERT INTO `environments` VALUES ('01a2242d-7ab1-7cf3-a916-e2e1ddc41830','01a2242d-7a65-77aa-8312-ebc2b3d57620','staging',1,2,3,2,'01a2242d-812d-7e35-9b5a-5de214ad15c3',1,'finish');
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `evidence` (
  `id` varchar(36) NOT NULL,
  `project_id` varchar(36) NOT NULL,
  `build_id` varchar(36) NOT NULL,
  `step` varchar(60) NOT NULL,
  `kind` varchar(20) NOT NULL,
  `path` varchar(500) NOT NULL,
  `content` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`content`)),
  `at` bigint(20) NOT NULL,
  PRIMARY KEY (`id`),
  KEY `evidence_build` (`build_id`),
  KEY `evidence_kind` (`project_id`,`kind`,`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `file_findings` (
  `file` varchar(64) NOT NULL,
  `rules` int(11) NOT NULL,
  `facts` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`facts`)),
  PRIMARY KEY (`file`,`rules`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `file_findings` VALUES ('1a97a7a5d5f1e0480de24c6e14d4fba1bfd41a9ad2c3095af7447dec0e8312c0',10,'{\"references\":[],\"anchors\":[],\"base\":null,\"privateAddresses\":[],\"keys\":[],\"isPointer\":false}');
INSERT INTO `file_findings` VALUES ('52c123d327f66e17c132f51c832d69c12e1041a433586d8ce834a73b0062b4e7',10,'{\"references\":[],\"anchors\":[],\"base\":null,\"privateAddresses\":[],\"keys\":[],\"isPointer\":false}');
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `grants` (
  `id` varchar(36) NOT NULL,
  `person_id` varchar(36) NOT NULL,
  `project_id` varchar(36) DEFAULT NULL,
  `role` varchar(20) NOT NULL,
  PRIMARY KEY (`id`),
  KEY `grants_person` (`person_id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `grants` VALUES ('01a2242d-7a49-7698-ad78-00e6b484cecd','01a2242d-7a35-7862-9e99-3859a2fe56b7',NULL,'operator');
INSERT INTO `grants` VALUES ('01a2242d-7b57-7405-a144-218311de4cc4','01a2242d-7af1-7e3e-ae39-248e009e4277',NULL,'operator');
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `holds` (
  `id` varchar(36) NOT NULL,
  `environment_id` varchar(36) NOT NULL,
  `deploy_id` varchar(36) DEFAULT NULL,
  `person_id` varchar(36) DEFAULT NULL,
  `reason` varchar(500) NOT NULL,
  `since` bigint(20) NOT NULL,
  `lifted_at` bigint(20) DEFAULT NULL,
  `lifted_by` varchar(36) DEFAULT NULL,
  `standing` tinyint(1) DEFAULT 1,
  PRIMARY KEY (`id`),
  UNIQUE KEY `holds_standing` (`environment_id`,`standing`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `holds` VALUES ('01a2242d-8470-7b6b-8c82-e045b9907197','01a2242d-7ab1-7cf3-a916-e2e09c096333','01a2242d-8470-7b6b-8c82-e04468985b12','01a2242d-7a35-7862-9e99-3859a2fe56b7','Nobody finds the next sailing.',1795903292528,NULL,NULL,1);
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `inspections` (
  `project_id` varchar(36) NOT NULL,
  `artifact` varchar(64) NOT NULL,
  `findings` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`findings`)),
  `at` bigint(20) NOT NULL,
  `took_ms` bigint(20) NOT NULL,
  PRIMARY KEY (`project_id`,`artifact`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `inspections` VALUES ('01a2242d-7a65-77aa-8312-ebc2b3d57620','70ee8527b0fafd3b17d610cb5f9e48b322983a4e97965995cb49c3f736d032b9','[]',1795903291657,9);
INSERT INTO `inspections` VALUES ('01a2242d-7a65-77aa-8312-ebc2b3d57620','faca324ddab14bf6a0b18cc1a7d9ed9d246b1b731069bab48da8e4c88436d2c9','[]',1795903291002,333);
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `intakes` (
  `environment_id` varchar(36) NOT NULL,
  `intake` int(11) NOT NULL,
  `change_id` varchar(36) DEFAULT NULL,
  `build_id` varchar(36) NOT NULL,
  `state` varchar(12) NOT NULL,
  PRIMARY KEY (`environment_id`,`intake`),
  KEY `intakes_build` (`build_id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `intakes` VALUES ('01a2242d-7ab1-7cf3-a916-e2e1ddc41830',1,'01a2242d-7c12-7261-be2b-796f58ca7d90','01a2242d-7c18-7a30-89d6-5133f123b903','deployed');
INSERT INTO `intakes` VALUES ('01a2242d-7ab1-7cf3-a916-e2e1ddc41830',2,'01a2242d-8015-7a92-9dca-998a620542ef','01a2242d-8019-77be-a0a0-fb911043990c','deployed');
INSERT INTO `intakes` VALUES ('01a2242d-7ab1-7cf3-a916-e2e1ddc41830',3,'01a2242d-82f1-73b6-951e-0ecfcc01fada','01a2242d-82f4-7977-943b-2cc74571e7c9','failed');
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `keyed_calls` (
  `actor_id` varchar(36) NOT NULL,
  `key` varchar(100) NOT NULL,
  `call` varchar(64) NOT NULL,
  `status` int(11) DEFAULT NULL,
  `reply` longtext DEFAULT NULL,
  `at` bigint(20) NOT NULL,
  PRIMARY KEY (`actor_id`,`key`),
  KEY `keyed_calls_at` (`at`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `keyed_calls` VALUES ('01a2242d-7a35-7862-9e99-3859a2fe56b7','2c170fad-92c6-487c-bf48-839477b19ecf','c2e0e1f707770db3d34128fc477487af08dec242bd8574ff9e729bec86601184',200,'{\"environment\":\"production\",\"address\":\"http://timetable.localhost:25834\",\"deploy\":{\"number\":2,\"kind\":\"promoted\",\"artifact\":\"70ee8527b0fafd3b17d610cb5f9e48b322983a4e97965995cb49c3f736d032b9\",\"build\":2,\"commit\":\"ef4dfddc2a036ce6805e6edf68c78632accd7173\",\"subject\":\"Winter sailings\",\"by\":\"ines\",\"through\":\"api\",\"reason\":null,\"undoes\":null,\"undone\":false,\"kept\":true,\"committedAt\":1795903291972,\"confirmedAt\":1795903291983,\"builtInMs\":234,\"position\":15},\"before\":{\"deploy\":1,\"build\":1,\"artifact\":\"faca324ddab14bf6a0b18cc1a7d9ed9d246b1b731069bab48da8e4c88436d2c9\"},\"confirmed\":true,\"unheard\":[],\"ms\":{\"prepare\":0.08362899999974616,\"commit\":6.922577000000274,\"confirm\":9.474803000000065},\"generation\":2}',1795903291969);
INSERT INTO `keyed_calls` VALUES ('01a2242d-7a35-7862-9e99-3859a2fe56b7','349d0483-2637-4c29-8b1b-35618dce9725','09e546ad3cc6f9fdae1c3520fc1f1b14b387d8a54c9c599e4ab70194d6ea5f80',200,'{\"name\":\"timetable\",\"folder\":\"\",\"branch\":\"main\",\"repository\":{\"kind\":\"hosted\",\"place\":\"http://localhost:26408/git/timetable.git\",\"look\":0,\"lookedAt\":1795903290073,\"state\":\"waits for the first commit on main\",\"trouble\":null},\"head\":null,\"addresses\":[{\"environment\":\"production\",\"address\":\"http://timetable.localhost:25834\"},{\"environment\":\"staging\",\"address\":\"http://staging.timetable.localhost:25834\"}],\"lastBuild\":null}',1795903289952);
INSERT INTO `keyed_calls` VALUES ('01a2242d-7a35-7862-9e99-3859a2fe56b7','b5a48050-0b23-40ef-ba62-d7e78fb1f9e9','70622c8779fa9b49a50544756f6211b9cb4e5fa36d866ca1e25e96520ef01507',200,'{\"environment\":\"production\",\"address\":\"http://timetable.localhost:25834\",\"deploy\":{\"number\":3,\"kind\":\"rolled-back\",\"artifact\":\"faca324ddab14bf6a0b18cc1a7d9ed9d246b1b731069bab48da8e4c88436d2c9\",\"build\":1,\"commit\":\"8ea32e0bf29218956a73277cd19bb75179c96b92\",\"subject\":\"First timetable\",\"by\":\"ines\",\"through\":\"api\",\"reason\":\"Nobody finds the next sailing.\",\"undoes\":{\"first\":2,\"last\":2},\"undone\":false,\"kept\":true,\"committedAt\":1795903292528,\"confirmedAt\":1795903292543,\"builtInMs\":589,\"position\":18},\"before\":{\"deploy\":2,\"build\":2,\"artifact\":\"70ee8527b0fafd3b17d610cb5f9e48b322983a4e97965995cb49c3f736d032b9\"},\"confirmed\":true,\"unheard\":[],\"ms\":{\"prepare\":0.06916000000001077,\"commit\":7.490036000000146,\"confirm\":13.417507999999543},\"generation\":3}',1795903292525);
INSERT INTO `keyed_calls` VALUES ('01a2242d-7a35-7862-9e99-3859a2fe56b7','ba77ab81-028a-4482-877a-e92f9ea5a18a','92e78f1b0f342ced97777e9732b3b987c7bddb2c20385df55af42e3aa5524432',200,'{\"environment\":\"production\",\"address\":\"http://timetable.localhost:25834\",\"deploy\":{\"number\":1,\"kind\":\"promoted\",\"artifact\":\"faca324ddab14bf6a0b18cc1a7d9ed9d246b1b731069bab48da8e4c88436d2c9\",\"build\":1,\"commit\":\"8ea32e0bf29218956a73277cd19bb75179c96b92\",\"subject\":\"First timetable\",\"by\":\"ines\",\"through\":\"api\",\"reason\":null,\"undoes\":null,\"undone\":false,\"kept\":true,\"committedAt\":1795903291287,\"confirmedAt\":1795903291295,\"builtInMs\":589,\"position\":10},\"before\":null,\"confirmed\":true,\"unheard\":[],\"ms\":{\"prepare\":0.04537299999992683,\"commit\":7.231743000000279,\"confirm\":6.268922999999631},\"generation\":1}',1795903291283);
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `log_chunks` (
  `attempt_id` varchar(36) NOT NULL,
  `offset` bigint(20) NOT NULL,
  `bytes` longblob NOT NULL,
  `segments` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL CHECK (json_valid(`segments`)),
  PRIMARY KEY (`attempt_id`,`offset`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `log_entries` (
  `position` bigint(20) NOT NULL,
  `at` bigint(20) NOT NULL,
  `kind` varchar(60) NOT NULL,
  `project_id` varchar(36) DEFAULT NULL,
  `bytes` longtext NOT NULL,
  `leaf` varchar(64) NOT NULL,
  PRIMARY KEY (`position`),
  KEY `log_entries_project` (`project_id`,`position`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `log_entries` VALUES (1,1795903289909,'person.added',NULL,'{\"actor\":{\"id\":\"vaquero\",\"kind\":\"vaquero\"},\"at\":1795903289909,\"facts\":{\"person\":\"01a2242d-7a35-7862-9e99-3859a2fe56b7\",\"role\":\"operator\"},\"kind\":\"person.added\",\"origin\":null,\"position\":1,\"project\":null,\"through\":\"vaquero\"}','eedf4f28b66ac9cae71e156bca8924433195a378b051ecc10ea17d2436a5aaa2');
INSERT INTO `log_entries` VALUES (2,1795903289937,'token.made',NULL,'{\"actor\":{\"id\":\"01a2242d-7a35-7862-9e99-3859a2fe56b7\",\"kind\":\"person\"},\"at\":1795903289937,\"facts\":{\"expiresAt\":1798495289937,\"kind\":\"all\",\"token\":\"01a2242d-7a51-7512-904e-12f86efdb511\"},\"kind\":\"token.made\",\"origin\":null,\"position\":2,\"project\":null,\"through\":\"test\"}','ca4208e345d3590e42d68364a9c8664d1d6ab26d5bb35d9fd7a05cbf801cd4f6');
INSERT INTO `log_entries` VALUES (3,1795903289940,'token.made',NULL,'{\"actor\":{\"id\":\"01a2242d-7a35-7862-9e99-3859a2fe56b7\",\"kind\":\"person\"},\"at\":1795903289940,\"facts\":{\"expiresAt\":1798495289940,\"kind\":\"git\",\"token\":\"01a2242d-7a54-766d-ae47-86a9ecb19c64\"},\"kind\":\"token.made\",\"origin\":null,\"position\":3,\"project\":null,\"through\":\"test\"}','800db381785ee1f70c06ca780060319a02852270bfbfaf8b42b23fa307405dc5');
INSERT INTO `log_entries` VALUES (4,1795903289957,'project.made','01a2242d-7a65-77aa-8312-ebc2b3d57620','{\"actor\":{\"id\":\"01a2242d-7a35-7862-9e99-3859a2fe56b7\",\"kind\":\"person\"},\"at\":1795903289957,\"facts\":{\"branch\":\"main\",\"folder\":\"\",\"map\":1,\"repository\":\"hosted\"},\"kind\":\"project.made\",\"origin\":\"f0181742c7e4dfd29ea05b13bc2e8a5643e33aa2b0f04e7b260d1314356bf593\",\"position\":4,\"project\":\"timetable\",\"through\":\"api\"}','03ebb5a4e56b17cb9f1edeea6f5cf0389ccab3fa12576413ed6361888962648e');
INSERT INTO `log_entries` VALUES (5,1795903290097,'person.added',NULL,'{\"actor\":{\"id\":\"vaquero\",\"kind\":\"vaquero\"},\"at\":1795903290097,\"facts\":{\"person\":\"01a2242d-7af1-7e3e-ae39-248e009e4277\",\"role\":\"operator\"},\"kind\":\"person.added\",\"origin\":null,\"position\":5,\"project\":null,\"through\":\"vaquero\"}','56a4c2ed3b01b40bbdebee50742cebe4c785736d51763ccc4b565ec72351233b');
INSERT INTO `log_entries` VALUES (6,1795903290386,'change.seen','01a2242d-7a65-77aa-8312-ebc2b3d57620','{\"actor\":{\"id\":\"01a2242d-7a35-7862-9e99-3859a2fe56b7\",\"kind\":\"person\"},\"at\":1795903290386,\"facts\":{\"builds\":[1],\"change\":\"01a2242d-7c12-7261-be2b-796f58ca7d90\",\"destination\":\"staging follows main\",\"from\":null,\"look\":1,\"ref\":\"refs/heads/main\",\"to\":\"8ea32e0bf29218956a73277cd19bb75179c96b92\"},\"kind\":\"change.seen\",\"origin\":\"0dae85f41cdf03baea64d245da7846defbaf4586cda4f5ed489bf94067365296\",\"position\":6,\"project\":\"timetable\",\"through\":\"git\"}','4e6c422d510e460751fe98885de0596b70aab4286b1a1a3b60c01840e0492cbf');
INSERT INTO `log_entries` VALUES (7,1795903291005,'artifact.stored','01a2242d-7a65-77aa-8312-ebc2b3d57620','{\"actor\":{\"id\":\"vaquero\",\"kind\":\"vaquero\"},\"at\":1795903291005,\"facts\":{\"artifact\":\"faca324ddab14bf6a0b18cc1a7d9ed9d246b1b731069bab48da8e4c88436d2c9\",\"build\":1,\"bytes\":12,\"files\":1},\"kind\":\"artifact.stored\",\"origin\":null,\"position\":7,\"project\":\"timetable\",\"through\":\"vaquero\"}','238eac0cd22b4df4dcacaff070eed9579bf0bd93534608811fc76bc8d5a7358e');
INSERT INTO `log_entries` VALUES (8,1795903291005,'build.passed','01a2242d-7a65-77aa-8312-ebc2b3d57620','{\"actor\":{\"id\":\"vaquero\",\"kind\":\"vaquero\"},\"at\":1795903291005,\"facts\":{\"artifact\":\"faca324ddab14bf6a0b18cc1a7d9ed9d246b1b731069bab48da8e4c88436d2c9\",\"attempt\":\"01a2242d-7c2d-7590-970b-87b470df928f\",\"build\":1,\"commit\":\"8ea32e0bf29218956a73277cd19bb75179c96b92\"},\"kind\":\"build.passed\",\"origin\":null,\"position\":8,\"project\":\"timetable\",\"through\":\"vaquero\"}','a22617b1c35abae85b838d64758cb1619151a4152ef8855c34b6895d7ced6aae');
INSERT INTO `log_entries` VALUES (9,1795903291042,'environment.automatic','01a2242d-7a65-77aa-8312-ebc2b3d57620','{\"actor\":{\"id\":\"01a2242d-7a35-7862-9e99-3859a2fe56b7\",\"kind\":\"person\"},\"at\":1795903291042,\"facts\":{\"artifact\":\"faca324ddab14bf6a0b18cc1a7d9ed9d246b1b731069bab48da8e4c88436d2c9\",\"commit\":\"8ea32e0bf29218956a73277cd19bb75179c96b92\",\"deploy\":1,\"environment\":\"staging\",\"intake\":1,\"reason\":null,\"undoes\":null},\"kind\":\"environment.automatic\",\"origin\":null,\"position\":9,\"project\":\"timetable\",\"through\":\"git\"}','4cc17978e35aa944a946d68b3516ec0df9d0d166b90e11cad1599abbc317bfb2');
INSERT INTO `log_entries` VALUES (10,1795903291287,'environment.promoted','01a2242d-7a65-77aa-8312-ebc2b3d57620','{\"actor\":{\"id\":\"01a2242d-7a35-7862-9e99-3859a2fe56b7\",\"kind\":\"person\"},\"at\":1795903291287,\"facts\":{\"artifact\":\"faca324ddab14bf6a0b18cc1a7d9ed9d246b1b731069bab48da8e4c88436d2c9\",\"commit\":\"8ea32e0bf29218956a73277cd19bb75179c96b92\",\"deploy\":1,\"environment\":\"production\",\"intake\":0,\"reason\":null,\"undoes\":null},\"kind\":\"environment.promoted\",\"origin\":\"5b8ce4f2382a46269f5e75fca55df6e1302372efc5f19035a21c27c4ea0826a1\",\"position\":10,\"project\":\"timetable\",\"through\":\"api\"}','bf708a3e7f38ed31f45489137eda957b3b12901c89a762aace79d4852ceceef7');
INSERT INTO `log_entries` VALUES (11,1795903291413,'change.seen','01a2242d-7a65-77aa-8312-ebc2b3d57620','{\"actor\":{\"id\":\"01a2242d-7a35-7862-9e99-3859a2fe56b7\",\"kind\":\"person\"},\"at\":1795903291413,\"facts\":{\"builds\":[2],\"change\":\"01a2242d-8015-7a92-9dca-998a620542ef\",\"destination\":\"staging follows main\",\"from\":\"8ea32e0bf29218956a73277cd19bb75179c96b92\",\"look\":2,\"ref\":\"refs/heads/main\",\"to\":\"ef4dfddc2a036ce6805e6edf68c78632accd7173\"},\"kind\":\"change.seen\",\"origin\":\"587a3af216ee1e4d2b07130800e243fec69d4a9defd45a67f3acec09e1d3dda3\",\"position\":11,\"project\":\"timetable\",\"through\":\"git\"}','e9428809f8cb88cb6b6130deb42d90385c9685cf3711746e5d7edf6a7893f81b');
INSERT INTO `log_entries` VALUES (12,1795903291664,'artifact.stored','01a2242d-7a65-77aa-8312-ebc2b3d57620','{\"actor\":{\"id\":\"vaquero\",\"kind\":\"vaquero\"},\"at\":1795903291664,\"facts\":{\"artifact\":\"70ee8527b0fafd3b17d610cb5f9e48b322983a4e97965995cb49c3f736d032b9\",\"build\":2,\"bytes\":12,\"files\":1},\"kind\":\"artifact.stored\",\"origin\":null,\"position\":12,\"project\":\"timetable\",\"through\":\"vaquero\"}','ab278908349fabf474d77a9ff346e1fab4e0baae62a0e8103ae8af7ace3da068');
INSERT INTO `log_entries` VALUES (13,1795903291664,'build.passed','01a2242d-7a65-77aa-8312-ebc2b3d57620','{\"actor\":{\"id\":\"vaquero\",\"kind\":\"vaquero\"},\"at\":1795903291664,\"facts\":{\"artifact\":\"70ee8527b0fafd3b17d610cb5f9e48b322983a4e97965995cb49c3f736d032b9\",\"attempt\":\"01a2242d-8024-7472-bb1c-d8c423ffdaf6\",\"build\":2,\"commit\":\"ef4dfddc2a036ce6805e6edf68c78632accd7173\"},\"kind\":\"build.passed\",\"origin\":null,\"position\":13,\"project\":\"timetable\",\"through\":\"vaquero\"}','49ca9c9af74e2ad5aec2ccf45fc9e85255c4ff46e3dcde1668805cfcb35bec6f');
INSERT INTO `log_entries` VALUES (14,1795903291693,'environment.automatic','01a2242d-7a65-77aa-8312-ebc2b3d57620','{\"actor\":{\"id\":\"01a2242d-7a35-7862-9e99-3859a2fe56b7\",\"kind\":\"person\"},\"at\":1795903291693,\"facts\":{\"artifact\":\"70ee8527b0fafd3b17d610cb5f9e48b322983a4e97965995cb49c3f736d032b9\",\"commit\":\"ef4dfddc2a036ce6805e6edf68c78632accd7173\",\"deploy\":2,\"environment\":\"staging\",\"intake\":2,\"reason\":null,\"undoes\":null},\"kind\":\"environment.automatic\",\"origin\":null,\"position\":14,\"project\":\"timetable\",\"through\":\"git\"}','ff6201a9fb26aadbe49e6f23d1a89ccd28859b000adf15c305c08e021f12b125');
INSERT INTO `log_entries` VALUES (15,1795903291972,'environment.promoted','01a2242d-7a65-77aa-8312-ebc2b3d57620','{\"actor\":{\"id\":\"01a2242d-7a35-7862-9e99-3859a2fe56b7\",\"kind\":\"person\"},\"at\":1795903291972,\"facts\":{\"artifact\":\"70ee8527b0fafd3b17d610cb5f9e48b322983a4e97965995cb49c3f736d032b9\",\"commit\":\"ef4dfddc2a036ce6805e6edf68c78632accd7173\",\"deploy\":2,\"environment\":\"production\",\"intake\":0,\"reason\":null,\"undoes\":null},\"kind\":\"environment.promoted\",\"origin\":\"0e1fa3cd326195a4460195aef2e0f0b3e68b768ae93a8db58071905869b53c78\",\"position\":15,\"project\":\"timetable\",\"through\":\"api\"}','b9b818acfdf48231c934f66fb71688c0b1fa1c42bfe21794220987cef6c39251');
INSERT INTO `log_entries` VALUES (16,1795903292145,'change.seen','01a2242d-7a65-77aa-8312-ebc2b3d57620','{\"actor\":{\"id\":\"01a2242d-7a35-7862-9e99-3859a2fe56b7\",\"kind\":\"person\"},\"at\":1795903292145,\"facts\":{\"builds\":[3],\"change\":\"01a2242d-82f1-73b6-951e-0ecfcc01fada\",\"destination\":\"staging follows main\",\"from\":\"ef4dfddc2a036ce6805e6edf68c78632accd7173\",\"look\":3,\"ref\":\"refs/heads/main\",\"to\":\"3d74c0ef16e52f73f7d7a2770150942f973fbe8f\"},\"kind\":\"change.seen\",\"origin\":\"e7308055c057c0aa57822a8fed88b33475d73918be88b8fb8e2f894a0e053832\",\"position\":16,\"project\":\"timetable\",\"through\":\"git\"}','239ce8758bfb64b141175baf6d70602665e35daa4a9710831c808511dc77cc23');
INSERT INTO `log_entries` VALUES (17,1795903292325,'build.failed','01a2242d-7a65-77aa-8312-ebc2b3d57620','{\"actor\":{\"id\":\"vaquero\",\"kind\":\"vaquero\"},\"at\":1795903292325,\"facts\":{\"attempt\":\"01a2242d-8302-733d-b0f8-a7c54b70fb91\",\"build\":3,\"commit\":\"3d74c0ef16e52f73f7d7a2770150942f973fbe8f\",\"reason\":\"step\"},\"kind\":\"build.failed\",\"origin\":null,\"position\":17,\"project\":\"timetable\",\"through\":\"vaquero\"}','bf0264772d8fae0ca749722b214a152027e0239038f67c5fe0a57cf41e33419d');
INSERT INTO `log_entries` VALUES (18,1795903292528,'environment.rolled-back','01a2242d-7a65-77aa-8312-ebc2b3d57620','{\"actor\":{\"id\":\"01a2242d-7a35-7862-9e99-3859a2fe56b7\",\"kind\":\"person\"},\"at\":1795903292528,\"facts\":{\"artifact\":\"faca324ddab14bf6a0b18cc1a7d9ed9d246b1b731069bab48da8e4c88436d2c9\",\"commit\":\"8ea32e0bf29218956a73277cd19bb75179c96b92\",\"deploy\":3,\"environment\":\"production\",\"intake\":0,\"reason\":\"Nobody finds the next sailing.\",\"undoes\":{\"first\":2,\"last\":2}},\"kind\":\"environment.rolled-back\",\"origin\":\"e402d63a110d3d6eb41fc2d1028db6d50bceba971661d28051afa13a87374b8b\",\"position\":18,\"project\":\"timetable\",\"through\":\"api\"}','45c9dfcdf9060094d3b52ba391e782fef73c8c0a7b2a8a5953a83f4afe487bf0');
INSERT INTO `log_entries` VALUES (19,1795903292566,'variable.set','01a2242d-7a65-77aa-8312-ebc2b3d57620','{\"actor\":{\"id\":\"01a2242d-7a35-7862-9e99-3859a2fe56b7\",\"kind\":\"person\"},\"at\":1795903292566,\"facts\":{\"environment\":\"\",\"kind\":\"secret\",\"name\":\"MAP_KEY\"},\"kind\":\"variable.set\",\"origin\":\"2416a9b45d3cadcfa698b5ec9cb67876ea4a92ed66e4b0f3444d96f0d69c9e37\",\"position\":19,\"project\":\"timetable\",\"through\":\"api\"}','1c6ad8448c81f711342d24b8cb7d957d20f2083110f8203c0819bf2a345f5d4f');
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `log_head` (
  `id` int(11) NOT NULL,
  `position` bigint(20) NOT NULL,
  PRIMARY KEY (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `log_head` VALUES (1,19);
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `log_personal` (
  `position` bigint(20) NOT NULL,
  `field` varchar(40) NOT NULL,
  `salt` varchar(32) NOT NULL,
  `value` varchar(500) NOT NULL,
  PRIMARY KEY (`position`,`field`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `log_personal` VALUES (4,'origin','99602a516a7baf93bebdc2346d6ff15d','127.0.0.1');
INSERT INTO `log_personal` VALUES (6,'origin','a48c3a41113fd7424f975683507f6247','127.0.0.1');
INSERT INTO `log_personal` VALUES (10,'origin','eb5f329f2da2ac06934489333f48db6b','127.0.0.1');
INSERT INTO `log_personal` VALUES (11,'origin','45e3bc9d0d67b7715795d4483f17527a','127.0.0.1');
INSERT INTO `log_personal` VALUES (15,'origin','3cd8bca1fef9176a727355e1cceeee28','127.0.0.1');
INSERT INTO `log_personal` VALUES (16,'origin','e1a224c5b86e1ff682f8775b3ce8c338','127.0.0.1');
INSERT INTO `log_personal` VALUES (18,'origin','884fb443a7c7d6607614aa20ff1834ee','127.0.0.1');
INSERT INTO `log_personal` VALUES (19,'origin','7bcfb066aa790363ec1faa5646c0cbc7','127.0.0.1');
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `machines` (
  `id` varchar(36) NOT NULL,
  `role` varchar(10) NOT NULL,
  `name` varchar(60) NOT NULL,
  `token_hash` varchar(64) NOT NULL,
  `instance` varchar(36) DEFAULT NULL,
  `beat_at` datetime(3) DEFAULT NULL,
  `revision` bigint(20) NOT NULL DEFAULT 0,
  `slots` int(11) NOT NULL DEFAULT 0,
  `labels` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL CHECK (json_valid(`labels`)),
  `draining` tinyint(1) NOT NULL DEFAULT 0,
  PRIMARY KEY (`id`),
  UNIQUE KEY `machines_name` (`role`,`name`),
  UNIQUE KEY `machines_token` (`token_hash`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `machines` VALUES ('01a2242d-752e-74ad-bed4-c5a432de2337','runner','runner-1','fa4d980463d9c00094be445d7bbb6d845328aa20dd3ca53fc66b1a369ae74724','21bd8754-2c0f-4e60-897d-b6732cef8e16','2026-11-28 22:01:32.357',0,2,'[]',0);
INSERT INTO `machines` VALUES ('01a2242d-7537-7112-8049-be8261eb3c1a','edge','edge-1','c475e5696b69a31cb3ce6a15466b1d87517b50f29c306410d50d35ff0f9c9091','cfc76fb1-30a5-4971-8e25-6fdbd5243856','2026-11-28 22:01:30.891',4,0,NULL,0);
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `people` (
  `id` varchar(36) NOT NULL,
  `name` varchar(100) NOT NULL,
  `shown_as` varchar(200) NOT NULL,
  `password_hash` varchar(255) DEFAULT NULL,
  `made_at` bigint(20) NOT NULL,
  PRIMARY KEY (`id`),
  UNIQUE KEY `people_name` (`name`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `people` VALUES ('01a2242d-7a35-7862-9e99-3859a2fe56b7','ines','ines',NULL,1795903289909);
INSERT INTO `people` VALUES ('01a2242d-7af1-7e3e-ae39-248e009e4277','petra','Petra Lind','$argon2id$v=19$m=65536,t=3,p=1$iuIHYEg6UcCa626oFMH3Yg$7y+j3XwBla4ZZXB6AJwsqJ0pn9c/vjIIV6Ic8+ct3ho',1795903290097);
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `projects` (
  `id` varchar(36) NOT NULL,
  `name` varchar(40) NOT NULL,
  `repository_id` varchar(36) NOT NULL,
  `folder` varchar(255) NOT NULL,
  `branch` varchar(250) NOT NULL,
  `map_version` int(11) NOT NULL,
  `last_build` int(11) NOT NULL DEFAULT 0,
  `made_at` bigint(20) NOT NULL,
  `holding` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin DEFAULT NULL CHECK (json_valid(`holding`)),
  PRIMARY KEY (`id`),
  UNIQUE KEY `projects_name` (`name`),
  KEY `projects_repository` (`repository_id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `projects` VALUES ('01a2242d-7a65-77aa-8312-ebc2b3d57620','timetable','01a2242d-7a65-77aa-8312-ebc1e52aa10d','','main',1,3,1795903289957,NULL);
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `provenances` (
  `project_id` varchar(36) NOT NULL,
  `build_id` varchar(36) NOT NULL,
  `artifact` varchar(64) NOT NULL,
  `envelope` longblob NOT NULL,
  PRIMARY KEY (`project_id`,`build_id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `provenances` VALUES ('01a2242d-7a65-77aa-8312-ebc2b3d57620','01a2242d-7c18-7a30-89d6-5133f123b903','faca324ddab14bf6a0b18cc1a7d9ed9d246b1b731069bab48da8e4c88436d2c9',0x7B227061796C6F616454797065223A226170706C69636174696F6E2F766E642E696E2D746F746F2B6A736F6E222C227061796C6F6164223A2265794A6664486C775A534936496D68306448427A4F69387661573474644739306279357062793954644746305A57316C626E5176646A45694C434A77636D566B61574E68644755694F6E7369596E5670624752455A575A70626D6C3061573975496A7037496D4A316157786B56486C775A534936496D6830644841364C79397362324E6862476876633351364D6A59304D446776596E56706247517464486C775A584D76636D566A6158426C4C335978496977695A5868305A584A755957785159584A68625756305A584A7A496A7037496D5A766247526C6369493649694973496E4A6C59326C775A53493665794A685A32467062694936626E567362437769596D567A6157526C496A706258537769596D56356232356B496A7062585377695A6D3979496A7075645778734C434A755957316C496A6F6963326C305A534973496E4A31626D356C6369493657313073496E4E6C636E5A6C496A7037496D567564484A35496A6F696157356B5A5867756148527462434973496D317063334E70626D63694F6D353162477773496E4E70644755694F694A7664585169665377696333526C63484D694F6C7437496D466D64475679496A706258537769596D567A6157526C496A706258537769596D3979636D393363794936626E5673624377695932466A6147567A496A7062585377695A6D4670624856795A534936496D56755A484D694C434A6D623349694F6D353162477773496D6470646D5675496A706258537769615734694F6D353162477773496D786C626D527A496A7075645778734C434A755957316C496A6F696347466E5A584D694C434A755A58523362334A72496A6F69626D39755A534973496E4A6C5957527A496A7075645778734C434A795A584E316248527A496A7037496D5A70626D5270626D647A496A7062585377696447567A64484D694F6C746466537769636E5675496A7062496D31725A476C7949433177494739316443416D4A694277636D6C75644759674A79567A4A79416E50476778506D39755A5477766144452B4A79412B4947393164433970626D526C6543356F644731735847346958537769633256306379493665333073496E52796157567A496A6F784C434A336158526F6157354E63794936626E56736243776964334A706447567A496A70756457787366563073496E52766232787A496A7037496D35765A4755694F6D35316247783966537769636D566D496A6F69636D566D6379396F5A57466B6379397459576C7549697769636D567762334E706447397965534936496D6830644841364C79397362324E6862476876633351364D6A59304D4467765A326C304C3352706257563059574A735A53356E6158516966537769615735305A584A755957785159584A68625756305A584A7A496A7037496D6470646D5675496A7062585377696447397662484D694F6E73695A326C30496A6F694D69347A4F533431496977696148566E62794936496E59774C6A45784D53347A4B325634644756755A47566B49697769626D396B5A534936496E59794D4334794D43347949697769626E4274496A6F694D5445754D546B754D534973496E423564476876626A4D694F69497A4C6A45784C6A63694C434A7A65584E305A5730694F694A455A574A7059573467523035564C307870626E56344944457949436869623239726432397962536B696653776964484A31633351694F694A30636E567A6447566B496E3073496E4A6C63323973646D566B524756775A57356B5A57356A6157567A496A706265794A6B6157646C633351694F6E73695A326C305132397462576C30496A6F694F4756684D7A4A6C4D474A6D4D6A6B794D5467354E545A684E7A4D794E7A646A5A444535596D49334E5445334F574D354E6D49354D694A394C434A31636D6B694F694A6E615851726148523063446F764C327876593246736147397A64446F794E6A51774F43396E6158517664476C745A585268596D786C4C6D6470644542795A575A7A4C32686C5957527A4C3231686157346966537837496D52705A32567A6443493665794A7A614745794E5459694F6949775A5463335A4451775A6A55304F5751795A5459795A54566A596D51335A6A457A4F5445785A5451784E545A6B595463354E4751345A6A6B354E4445335A44426D4D6A63344D5452685A57517A596A63304D6D5A6C496E3073496D3568625755694F694A795A574E7063475569665631394C434A79645735455A5852686157787A496A7037496D4A316157786B5A5849694F6E7369615751694F694A6F644852774F6938766247396A5957786F62334E304F6A49324E4441344C334A31626D356C636E4D764D4446684D6A49304D6D51744E7A55795A5330334E47466B4C574A6C5A445174597A56684E444D795A4755794D7A4D3349697769646D567963326C766269493665794A32595846315A584A76496A6F694D4334334C6A416966583073496D4A3563484A765A48566A64484D694F6C7437496D4675626D3930595852706232357A496A7037496D5A70626D6C7A6147566B543234694F6949794D4449324C5445784C544934564449794F6A41784F6A4D7757694973496E4A6C64584E6C5A455A796232314364576C735A434936626E56736243776963335268636E526C5A453975496A6F694D6A41794E6930784D5330794F4651794D6A6F774D546F7A4D466F694C434A7A644746305A534936496E426863334E6C5A434A394C434A755957316C496A6F695A6D56305932676966537837496D4675626D3930595852706232357A496A7037496D5A70626D6C7A6147566B543234694F6949794D4449324C5445784C544934564449794F6A41784F6A4D7757694973496E4A6C64584E6C5A455A796232314364576C735A434936626E56736243776963335268636E526C5A453975496A6F694D6A41794E6930784D5330794F4651794D6A6F774D546F7A4D466F694C434A7A644746305A534936496E426863334E6C5A434A394C434A755957316C496A6F696347466E5A584D6966537837496D4675626D3930595852706232357A496A7037496D5A70626D6C7A6147566B543234694F6949794D4449324C5445784C544934564449794F6A41784F6A4D7757694973496E4A6C64584E6C5A455A796232314364576C735A434936626E56736243776963335268636E526C5A453975496A6F694D6A41794E6930784D5330794F4651794D6A6F774D546F7A4D466F694C434A7A644746305A534936496E426863334E6C5A434A394C434A755957316C496A6F6963335276636D556966537837496D4675626D3930595852706232357A496A7037496D5A70626D6C7A6147566B543234694F6949794D4449324C5445784C544934564449794F6A41784F6A4D7857694973496E4A6C64584E6C5A455A796232314364576C735A434936626E56736243776963335268636E526C5A453975496A6F694D6A41794E6930784D5330794F4651794D6A6F774D546F7A4D466F694C434A7A644746305A534936496E426863334E6C5A434A394C434A755957316C496A6F696157357A6347566A64434A394C487369595735756233526864476C76626E4D694F6E73695A6D6C7561584E6F5A57525062694936496A49774D6A59744D5445744D6A68554D6A49364D4445364D7A426149697769636D56316332566B526E4A7662554A316157786B496A7075645778734C434A7A644746796447566B543234694F6949794D4449324C5445784C544934564449794F6A41784F6A4D7757694973496E4E305958526C496A6F696347467A6332566B496E3073496D3568625755694F694A7362323972496E31644C434A745A5852685A4746305953493665794A6D615735706332686C5A453975496A6F694D6A41794E6930784D5330794F4651794D6A6F774D546F7A4D566F694C434A70626E5A765932463061573975535751694F6949774D5745794D6A51795A433033597A4A6B4C5463314F5441744F546377596930344E3249304E7A426B5A6A6B794F4759694C434A7A644746796447566B543234694F6949794D4449324C5445784C544934564449794F6A41784F6A4D7757694A3966583073496E42795A575270593246305A565235634755694F694A6F64485277637A6F764C334E73633245755A4756324C33427962335A6C626D467559325576646A45694C434A7A64574A715A574E30496A706265794A6B6157646C633351694F6E7369633268684D6A5532496A6F695A6D466A59544D794E47526B595749784E474A6D4E6D4577596A453459324D785954646B4F57566B4F5751794E445A694D5749334D7A45774E6A6C69595749304F4752684F475530597A67344E444D325A444A6A4F534A394C434A755957316C496A6F6964476C745A585268596D786C4C324A316157786B4C54456966563139222C227369676E617475726573223A5B7B226B65796964223A2230633239303433386338346335616365222C22736967223A22306C4C32527A6C676C746B4D5755483462536553462F7867687469444D4E49533355756D52376A67423741646D707155346159704C4D375761565054724631626A75526E4738556D675A42474A5674644471453842673D3D227D5D7D);
INSERT INTO `provenances` VALUES ('01a2242d-7a65-77aa-8312-ebc2b3d57620','01a2242d-8019-77be-a0a0-fb911043990c','70ee8527b0fafd3b17d610cb5f9e48b322983a4e97965995cb49c3f736d032b9',0x7B227061796C6F616454797065223A226170706C69636174696F6E2F766E642E696E2D746F746F2B6A736F6E222C227061796C6F6164223A2265794A6664486C775A534936496D68306448427A4F69387661573474644739306279357062793954644746305A57316C626E5176646A45694C434A77636D566B61574E68644755694F6E7369596E5670624752455A575A70626D6C3061573975496A7037496D4A316157786B56486C775A534936496D6830644841364C79397362324E6862476876633351364D6A59304D446776596E56706247517464486C775A584D76636D566A6158426C4C335978496977695A5868305A584A755957785159584A68625756305A584A7A496A7037496D5A766247526C6369493649694973496E4A6C59326C775A53493665794A685A32467062694936626E567362437769596D567A6157526C496A706258537769596D56356232356B496A7062585377695A6D3979496A7075645778734C434A755957316C496A6F6963326C305A534973496E4A31626D356C6369493657313073496E4E6C636E5A6C496A7037496D567564484A35496A6F696157356B5A5867756148527462434973496D317063334E70626D63694F6D353162477773496E4E70644755694F694A7664585169665377696333526C63484D694F6C7437496D466D64475679496A706258537769596D567A6157526C496A706258537769596D3979636D393363794936626E5673624377695932466A6147567A496A7062585377695A6D4670624856795A534936496D56755A484D694C434A6D623349694F6D353162477773496D6470646D5675496A706258537769615734694F6D353162477773496D786C626D527A496A7075645778734C434A755957316C496A6F696347466E5A584D694C434A755A58523362334A72496A6F69626D39755A534973496E4A6C5957527A496A7075645778734C434A795A584E316248527A496A7037496D5A70626D5270626D647A496A7062585377696447567A64484D694F6C746466537769636E5675496A7062496D31725A476C7949433177494739316443416D4A694277636D6C75644759674A79567A4A79416E50476778506E5233627A77766144452B4A79412B4947393164433970626D526C6543356F644731735847346958537769633256306379493665333073496E52796157567A496A6F784C434A336158526F6157354E63794936626E56736243776964334A706447567A496A70756457787366563073496E52766232787A496A7037496D35765A4755694F6D35316247783966537769636D566D496A6F69636D566D6379396F5A57466B6379397459576C7549697769636D567762334E706447397965534936496D6830644841364C79397362324E6862476876633351364D6A59304D4467765A326C304C3352706257563059574A735A53356E6158516966537769615735305A584A755957785159584A68625756305A584A7A496A7037496D6470646D5675496A7062585377696447397662484D694F6E73695A326C30496A6F694D69347A4F533431496977696148566E62794936496E59774C6A45784D53347A4B325634644756755A47566B49697769626D396B5A534936496E59794D4334794D43347949697769626E4274496A6F694D5445754D546B754D534973496E423564476876626A4D694F69497A4C6A45784C6A63694C434A7A65584E305A5730694F694A455A574A7059573467523035564C307870626E56344944457949436869623239726432397962536B696653776964484A31633351694F694A30636E567A6447566B496E3073496E4A6C63323973646D566B524756775A57356B5A57356A6157567A496A706265794A6B6157646C633351694F6E73695A326C305132397462576C30496A6F695A5759305A475A6B5A474D795954417A4E6D4E6C4E6A67774E5755325A57526D4E6A686A4E7A67324D7A4A6859324E6B4E7A45334D794A394C434A31636D6B694F694A6E615851726148523063446F764C327876593246736147397A64446F794E6A51774F43396E6158517664476C745A585268596D786C4C6D6470644542795A575A7A4C32686C5957527A4C3231686157346966537837496D52705A32567A6443493665794A7A614745794E5459694F694A6C4D7A51774D6A67784D6A557A5A4449334D44526A4D546C684E47526D4F4749784F4467354E445A6A4D5751794F4449774E474531595452684E44453059324A6D4F54453459546B77595445354F4759784E6A5935496E3073496D3568625755694F694A795A574E7063475569665631394C434A79645735455A5852686157787A496A7037496D4A316157786B5A5849694F6E7369615751694F694A6F644852774F6938766247396A5957786F62334E304F6A49324E4441344C334A31626D356C636E4D764D4446684D6A49304D6D51744E7A55795A5330334E47466B4C574A6C5A445174597A56684E444D795A4755794D7A4D3349697769646D567963326C766269493665794A32595846315A584A76496A6F694D4334334C6A416966583073496D4A3563484A765A48566A64484D694F6C7437496D4675626D3930595852706232357A496A7037496D5A70626D6C7A6147566B543234694F6949794D4449324C5445784C544934564449794F6A41784F6A4D7857694973496E4A6C64584E6C5A455A796232314364576C735A434936626E56736243776963335268636E526C5A453975496A6F694D6A41794E6930784D5330794F4651794D6A6F774D546F7A4D566F694C434A7A644746305A534936496E426863334E6C5A434A394C434A755957316C496A6F695A6D56305932676966537837496D4675626D3930595852706232357A496A7037496D5A70626D6C7A6147566B543234694F6949794D4449324C5445784C544934564449794F6A41784F6A4D7857694973496E4A6C64584E6C5A455A796232314364576C735A434936626E56736243776963335268636E526C5A453975496A6F694D6A41794E6930784D5330794F4651794D6A6F774D546F7A4D566F694C434A7A644746305A534936496E426863334E6C5A434A394C434A755957316C496A6F696347466E5A584D6966537837496D4675626D3930595852706232357A496A7037496D5A70626D6C7A6147566B543234694F6949794D4449324C5445784C544934564449794F6A41784F6A4D7857694973496E4A6C64584E6C5A455A796232314364576C735A434936626E56736243776963335268636E526C5A453975496A6F694D6A41794E6930784D5330794F4651794D6A6F774D546F7A4D566F694C434A7A644746305A534936496E426863334E6C5A434A394C434A755957316C496A6F6963335276636D556966537837496D4675626D3930595852706232357A496A7037496D5A70626D6C7A6147566B543234694F6949794D4449324C5445784C544934564449794F6A41784F6A4D7857694973496E4A6C64584E6C5A455A796232314364576C735A434936626E56736243776963335268636E526C5A453975496A6F694D6A41794E6930784D5330794F4651794D6A6F774D546F7A4D566F694C434A7A644746305A534936496E426863334E6C5A434A394C434A755957316C496A6F696157357A6347566A64434A394C487369595735756233526864476C76626E4D694F6E73695A6D6C7561584E6F5A57525062694936496A49774D6A59744D5445744D6A68554D6A49364D4445364D7A466149697769636D56316332566B526E4A7662554A316157786B496A7075645778734C434A7A644746796447566B543234694F6949794D4449324C5445784C544934564449794F6A41784F6A4D7857694973496E4E305958526C496A6F696347467A6332566B496E3073496D3568625755694F694A7362323972496E31644C434A745A5852685A4746305953493665794A6D615735706332686C5A453975496A6F694D6A41794E6930784D5330794F4651794D6A6F774D546F7A4D566F694C434A70626E5A765932463061573975535751694F6949774D5745794D6A51795A4330344D4449304C5463304E7A4974596D49785979316B4F474D304D6A4E6D5A6D52685A6A59694C434A7A644746796447566B543234694F6949794D4449324C5445784C544934564449794F6A41784F6A4D7857694A3966583073496E42795A575270593246305A565235634755694F694A6F64485277637A6F764C334E73633245755A4756324C33427962335A6C626D467559325576646A45694C434A7A64574A715A574E30496A706265794A6B6157646C633351694F6E7369633268684D6A5532496A6F694E7A426C5A5467314D6A64694D475A685A6D517A596A45335A4459784D474E694E5759355A545134596A4D794D6A6B344D3245305A546B334F5459314F546B31593249304F574D7A5A6A637A4E6D51774D7A4A694F534A394C434A755957316C496A6F6964476C745A585268596D786C4C324A316157786B4C54496966563139222C227369676E617475726573223A5B7B226B65796964223A2230633239303433386338346335616365222C22736967223A2266792B5077514838315A4D52795479322B376672503635644E3166646E5A58454976634F52684B3068414D76366552714D4A437A516E75475752336452377034754D4E667974315349305775704B6A4B4C53535743773D3D227D5D7D);
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `pull_request_words` (
  `pull_request_id` varchar(36) NOT NULL,
  `project_id` varchar(36) NOT NULL,
  `commit_id` varchar(64) NOT NULL,
  `person_id` varchar(36) NOT NULL,
  `at` bigint(20) NOT NULL,
  PRIMARY KEY (`pull_request_id`,`project_id`,`commit_id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `pull_requests` (
  `id` varchar(36) NOT NULL,
  `repository_id` varchar(36) NOT NULL,
  `number` int(11) NOT NULL,
  `title` varchar(200) NOT NULL,
  `into_branch` varchar(250) NOT NULL,
  `from_place` varchar(1000) DEFAULT NULL,
  `from_branch` varchar(250) NOT NULL,
  `state` varchar(10) NOT NULL DEFAULT 'open',
  `head` varchar(64) DEFAULT NULL,
  `person_id` varchar(36) NOT NULL,
  `opened_at` bigint(20) NOT NULL,
  `ended_at` bigint(20) DEFAULT NULL,
  `trouble` varchar(1000) DEFAULT NULL,
  PRIMARY KEY (`id`),
  UNIQUE KEY `pull_requests_number` (`repository_id`,`number`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `refs` (
  `repository_id` varchar(36) NOT NULL,
  `name` varchar(255) NOT NULL,
  `commit_id` varchar(64) NOT NULL,
  PRIMARY KEY (`repository_id`,`name`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `refs` VALUES ('01a2242d-7a65-77aa-8312-ebc1e52aa10d','refs/heads/main','3d74c0ef16e52f73f7d7a2770150942f973fbe8f');
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `repositories` (
  `id` varchar(36) NOT NULL,
  `kind` varchar(10) NOT NULL,
  `place` varchar(1000) NOT NULL,
  `look` int(11) NOT NULL DEFAULT 0,
  `looked_at` bigint(20) DEFAULT NULL,
  `trouble` varchar(1000) DEFAULT NULL,
  `last_pull_request` int(11) NOT NULL DEFAULT 0,
  PRIMARY KEY (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `repositories` VALUES ('01a2242d-7a65-77aa-8312-ebc1e52aa10d','hosted','',3,1795903292144,NULL,0);
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `routing_entries` (
  `environment_id` varchar(36) NOT NULL,
  `targets` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`targets`)),
  `deploy_id` varchar(36) DEFAULT NULL,
  PRIMARY KEY (`environment_id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `routing_entries` VALUES ('01a2242d-7ab1-7cf3-a916-e2e09c096333','[{\"artifact\":\"faca324ddab14bf6a0b18cc1a7d9ed9d246b1b731069bab48da8e4c88436d2c9\",\"share\":100}]','01a2242d-8470-7b6b-8c82-e04468985b12');
INSERT INTO `routing_entries` VALUES ('01a2242d-7ab1-7cf3-a916-e2e1ddc41830','[{\"artifact\":\"70ee8527b0fafd3b17d610cb5f9e48b322983a4e97965995cb49c3f736d032b9\",\"share\":100}]','01a2242d-812d-7e35-9b5a-5de214ad15c3');
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `sessions` (
  `hash` varchar(64) NOT NULL,
  `person_id` varchar(36) NOT NULL,
  `made_at` bigint(20) NOT NULL,
  `expires_at` bigint(20) NOT NULL,
  PRIMARY KEY (`hash`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `sign_in_tries` (
  `subject` varchar(255) NOT NULL,
  `failures` int(11) NOT NULL,
  `last_at` bigint(20) NOT NULL,
  PRIMARY KEY (`subject`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `step_results` (
  `project_id` varchar(36) NOT NULL,
  `key` varchar(64) NOT NULL,
  `output` varchar(64) NOT NULL,
  `build_id` varchar(36) NOT NULL,
  `step` varchar(60) NOT NULL,
  `files` int(11) NOT NULL,
  `bytes` bigint(20) NOT NULL,
  `took_ms` bigint(20) NOT NULL,
  `at` bigint(20) NOT NULL,
  PRIMARY KEY (`project_id`,`key`),
  KEY `step_results_at` (`project_id`,`at`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `tokens` (
  `id` varchar(36) NOT NULL,
  `hash` varchar(64) NOT NULL,
  `person_id` varchar(36) NOT NULL,
  `name` varchar(200) NOT NULL,
  `kind` varchar(10) NOT NULL,
  `made_at` bigint(20) NOT NULL,
  `expires_at` bigint(20) NOT NULL,
  `last_used_at` bigint(20) DEFAULT NULL,
  `revoked_at` bigint(20) DEFAULT NULL,
  PRIMARY KEY (`id`),
  UNIQUE KEY `tokens_hash` (`hash`),
  KEY `tokens_person` (`person_id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `tokens` VALUES ('01a2242d-7a51-7512-904e-12f86efdb511','5e5124d47e2e5b11ee49cc223c6dea6825d3ca06293922d3138f7d4af6475d2b','01a2242d-7a35-7862-9e99-3859a2fe56b7','all','all',1795903289937,1798495289937,1795903289949,NULL);
INSERT INTO `tokens` VALUES ('01a2242d-7a54-766d-ae47-86a9ecb19c64','7cea5d027a44e621ced13050b9b4af0305c53f30f819673cd126ea5bfe36609f','01a2242d-7a35-7862-9e99-3859a2fe56b7','git','git',1795903289940,1798495289940,1795903290275,NULL);
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `uploads` (
  `id` varchar(36) NOT NULL,
  `attempt_id` varchar(36) NOT NULL,
  `opened_at` bigint(20) NOT NULL,
  `closed_at` bigint(20) DEFAULT NULL,
  PRIMARY KEY (`id`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `uploads` VALUES ('01a2242d-7d26-7306-98f7-1c32004ae1c9','01a2242d-7c2d-7590-970b-87b470df928f',1795903290662,1795903291005);
INSERT INTO `uploads` VALUES ('01a2242d-80fa-7119-872f-551caf3186a0','01a2242d-8024-7472-bb1c-d8c423ffdaf6',1795903291643,1795903291664);
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `variables` (
  `project_id` varchar(36) NOT NULL,
  `environment` varchar(40) NOT NULL,
  `name` varchar(80) NOT NULL,
  `kind` varchar(10) NOT NULL,
  `sealed` longblob NOT NULL,
  `set_by` varchar(36) NOT NULL,
  `set_at` bigint(20) NOT NULL,
  `used_at` bigint(20) DEFAULT NULL,
  PRIMARY KEY (`project_id`,`environment`,`name`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_nopad_bin;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `variables` VALUES ('01a2242d-7a65-77aa-8312-ebc2b3d57620','','MAP_KEY','secret',0xADED18107285F664B922CAA587FDB2641AAF30DAA8A5D7336F8EB06BD47E5DEDEF4959A7DF,'01a2242d-7a35-7862-9e99-3859a2fe56b7',1795903292562,NULL);