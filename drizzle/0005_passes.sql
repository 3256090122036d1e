CREATE TABLE `run_inputs` (
	`runId` text NOT NULL,
	`role` text NOT NULL,
	`inputRunId` text NOT NULL,
	PRIMARY KEY(`runId`, `role`),
	FOREIGN KEY (`runId`) REFERENCES `runs`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`inputRunId`) REFERENCES `runs`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `inputs_of` ON `run_inputs` (`inputRunId`);--> statement-breakpoint
ALTER TABLE `runs` ADD `passId` text DEFAULT 'solve' NOT NULL;--> statement-breakpoint
ALTER TABLE `runs` ADD `kind` text DEFAULT 'solve' NOT NULL;