CREATE TABLE `calibrations` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`codeVersion` text NOT NULL,
	`threads` integer NOT NULL,
	`plan` text NOT NULL,
	`frames` text NOT NULL,
	`createdAt` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `sketches` (
	`key` text PRIMARY KEY NOT NULL,
	`shotId` text NOT NULL,
	`plan` text NOT NULL,
	`frames` text NOT NULL,
	`createdAt` integer NOT NULL,
	FOREIGN KEY (`shotId`) REFERENCES `shots`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `sketches_shot` ON `sketches` (`shotId`);--> statement-breakpoint
ALTER TABLE `runs` ADD `threads` integer;--> statement-breakpoint
ALTER TABLE `runs` ADD `prediction` text;--> statement-breakpoint
ALTER TABLE `runs` ADD `notes` text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `variants` ADD `deletedAt` integer;