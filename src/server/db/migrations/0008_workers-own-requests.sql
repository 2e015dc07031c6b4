ALTER TABLE `exchanges` ADD `fetched_for` integer;--> statement-breakpoint
ALTER TABLE `exchanges` ADD `fetched_as` integer;