CREATE TABLE `runs` (
	`id` text PRIMARY KEY NOT NULL,
	`capture_id` text NOT NULL,
	`draft_id` text NOT NULL,
	`begin` text NOT NULL,
	`status` text NOT NULL,
	`sentence` text NOT NULL,
	`result` text NOT NULL,
	`started_at` integer NOT NULL,
	`ended_at` integer,
	`deleted_at` integer,
	FOREIGN KEY (`capture_id`) REFERENCES `captures`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `runs_capture` ON `runs` (`capture_id`);