ALTER TABLE `variants` ADD `revision` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
-- Drafts that are there go on from their own revision.
UPDATE `variants` SET `revision` = (SELECT `drafts`.`revision` FROM `drafts` WHERE `drafts`.`variantId` = `variants`.`id`) WHERE `id` IN (SELECT `variantId` FROM `drafts`);
