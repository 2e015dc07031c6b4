ALTER TABLE `exchanges` ADD `is_storable` integer DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `exchanges` ADD `fresh_seconds` real;--> statement-breakpoint
ALTER TABLE `exchanges` ADD `error_inside` text;--> statement-breakpoint
ALTER TABLE `exchanges` ADD `findings` text;--> statement-breakpoint
ALTER TABLE `exchanges` ADD `holds` text;