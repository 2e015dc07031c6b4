CREATE TABLE `row_blocks` (
	`capture_id` text NOT NULL,
	`first` integer NOT NULL,
	`count` integer NOT NULL,
	`bytes` blob NOT NULL,
	PRIMARY KEY(`capture_id`, `first`),
	FOREIGN KEY (`capture_id`) REFERENCES `captures`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
DROP TABLE `exchanges`;