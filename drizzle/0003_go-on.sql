CREATE TABLE `states` (
	`runId` text NOT NULL,
	`bounds` integer NOT NULL,
	`frame` integer NOT NULL,
	`path` text NOT NULL,
	`bytes` integer NOT NULL,
	`checksum` text NOT NULL,
	PRIMARY KEY(`runId`, `bounds`, `frame`),
	FOREIGN KEY (`runId`) REFERENCES `runs`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
ALTER TABLE `jobs` ADD `framesBefore` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `jobs` ADD `attempts` integer DEFAULT 0 NOT NULL;