CREATE TABLE `hand_offs` (
	`capture_id` text PRIMARY KEY NOT NULL,
	`choice` text NOT NULL,
	FOREIGN KEY (`capture_id`) REFERENCES `captures`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `marks` (
	`capture_id` text NOT NULL,
	`target` text NOT NULL,
	`is_marked` integer NOT NULL,
	`note` text NOT NULL,
	PRIMARY KEY(`capture_id`, `target`),
	FOREIGN KEY (`capture_id`) REFERENCES `captures`(`id`) ON UPDATE no action ON DELETE cascade
);
