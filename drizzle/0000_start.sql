CREATE TABLE `drafts` (
	`variantId` text PRIMARY KEY NOT NULL,
	`settings` text NOT NULL,
	`revision` integer NOT NULL,
	`updatedAt` integer NOT NULL,
	FOREIGN KEY (`variantId`) REFERENCES `variants`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `frames` (
	`runId` text NOT NULL,
	`frame` integer NOT NULL,
	`inRange` integer NOT NULL,
	`stored` integer NOT NULL,
	`bytes` integer NOT NULL,
	`checksum` text,
	`seconds` real NOT NULL,
	`memoryBytes` integer NOT NULL,
	`report` text NOT NULL,
	PRIMARY KEY(`runId`, `frame`),
	FOREIGN KEY (`runId`) REFERENCES `runs`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `jobs` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`runId` text NOT NULL,
	`rung` text NOT NULL,
	`state` text NOT NULL,
	`createdAt` integer NOT NULL,
	`claimedAt` integer,
	FOREIGN KEY (`runId`) REFERENCES `runs`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `jobs_state` ON `jobs` (`state`,`rung`);--> statement-breakpoint
CREATE TABLE `runs` (
	`id` text PRIMARY KEY NOT NULL,
	`number` integer NOT NULL,
	`shotId` text NOT NULL,
	`variantId` text NOT NULL,
	`rung` text NOT NULL,
	`key` text NOT NULL,
	`plan` text NOT NULL,
	`codeVersion` text NOT NULL,
	`state` text NOT NULL,
	`error` text,
	`folder` text NOT NULL,
	`freedAt` integer,
	`purgedAt` integer,
	`createdAt` integer NOT NULL,
	`startedAt` integer,
	`endedAt` integer,
	FOREIGN KEY (`shotId`) REFERENCES `shots`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`variantId`) REFERENCES `variants`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `runs_shot` ON `runs` (`shotId`);--> statement-breakpoint
CREATE UNIQUE INDEX `runs_number` ON `runs` (`shotId`,`number`);--> statement-breakpoint
CREATE TABLE `shots` (
	`id` text PRIMARY KEY NOT NULL,
	`slug` text NOT NULL,
	`fields` text NOT NULL,
	`createdAt` integer NOT NULL,
	`updatedAt` integer NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `shots_slug_unique` ON `shots` (`slug`);--> statement-breakpoint
CREATE TABLE `variants` (
	`id` text PRIMARY KEY NOT NULL,
	`shotId` text NOT NULL,
	`name` text NOT NULL,
	`parentId` text,
	`settings` text NOT NULL,
	`frozen` integer DEFAULT false NOT NULL,
	`createdAt` integer NOT NULL,
	FOREIGN KEY (`shotId`) REFERENCES `shots`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE UNIQUE INDEX `variants_name` ON `variants` (`shotId`,`name`);