CREATE TABLE `settings` (
	`name` text PRIMARY KEY NOT NULL,
	`value` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `signatures` (
	`capture_id` text NOT NULL,
	`place` integer NOT NULL,
	`bits` blob,
	PRIMARY KEY(`capture_id`, `place`),
	FOREIGN KEY (`capture_id`) REFERENCES `captures`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
ALTER TABLE `exchanges` ADD `connection` text;--> statement-breakpoint
ALTER TABLE `exchanges` ADD `parent` integer;--> statement-breakpoint
ALTER TABLE `exchanges` ADD `parent_evidence` text;--> statement-breakpoint
ALTER TABLE `exchanges` ADD `preflight_for` integer;--> statement-breakpoint
ALTER TABLE `exchanges` ADD `depth` integer;--> statement-breakpoint
ALTER TABLE `exchanges` ADD `endpoint` text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `exchanges` ADD `is_on_route` integer DEFAULT false NOT NULL;