CREATE TABLE `rehearsals` (
	`id` text PRIMARY KEY NOT NULL,
	`capture_id` text NOT NULL,
	`order` text NOT NULL,
	`status` text NOT NULL,
	`started_at` integer NOT NULL,
	`asked` integer DEFAULT 0 NOT NULL,
	`missed` integer DEFAULT 0 NOT NULL,
	`not_kept` integer DEFAULT 0 NOT NULL,
	`problem` text,
	`deleted_at` integer,
	FOREIGN KEY (`capture_id`) REFERENCES `captures`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `rehearsals_capture` ON `rehearsals` (`capture_id`);--> statement-breakpoint
CREATE TABLE `variants` (
	`capture_id` text PRIMARY KEY NOT NULL,
	`value` text NOT NULL,
	FOREIGN KEY (`capture_id`) REFERENCES `captures`(`id`) ON UPDATE no action ON DELETE cascade
);
