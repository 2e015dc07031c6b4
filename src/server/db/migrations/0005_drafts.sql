CREATE TABLE `drafts` (
	`id` text PRIMARY KEY NOT NULL,
	`capture_id` text NOT NULL,
	`draft` text NOT NULL,
	`begun_at` integer NOT NULL,
	FOREIGN KEY (`capture_id`) REFERENCES `captures`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `drafts_capture` ON `drafts` (`capture_id`);