CREATE TABLE `trials` (
	`capture_id` text NOT NULL,
	`place` integer NOT NULL,
	`sent_at` integer NOT NULL,
	`sheet` text NOT NULL,
	`wire_hash` text NOT NULL,
	`notes` text NOT NULL,
	`note` text DEFAULT '' NOT NULL,
	`deleted_at` integer,
	PRIMARY KEY(`capture_id`, `place`),
	FOREIGN KEY (`capture_id`) REFERENCES `captures`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `variables` (
	`capture_id` text PRIMARY KEY NOT NULL,
	`variables` text NOT NULL,
	FOREIGN KEY (`capture_id`) REFERENCES `captures`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
ALTER TABLE `captures` ADD `trials_of` text REFERENCES captures(id) ON DELETE cascade;--> statement-breakpoint
CREATE INDEX `captures_trials_of` ON `captures` (`trials_of`);