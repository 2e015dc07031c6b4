CREATE TABLE `dismissals` (
	`capture_id` text NOT NULL,
	`key` text NOT NULL,
	`reason` text NOT NULL,
	PRIMARY KEY(`capture_id`, `key`),
	FOREIGN KEY (`capture_id`) REFERENCES `captures`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `findings` (
	`capture_id` text PRIMARY KEY NOT NULL,
	`version` integer NOT NULL,
	`findings` text NOT NULL,
	FOREIGN KEY (`capture_id`) REFERENCES `captures`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
ALTER TABLE `exchanges` ADD `named_by` integer;