CREATE TABLE `files` (
	`runId` text NOT NULL,
	`frame` integer NOT NULL,
	`path` text NOT NULL,
	`bytes` integer NOT NULL,
	`checksum` text NOT NULL,
	PRIMARY KEY(`runId`, `path`),
	FOREIGN KEY (`runId`) REFERENCES `runs`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `files_frame` ON `files` (`runId`,`frame`);--> statement-breakpoint
ALTER TABLE `frames` ADD `damage` text;--> statement-breakpoint
ALTER TABLE `shots` ADD `revision` integer DEFAULT 0 NOT NULL;