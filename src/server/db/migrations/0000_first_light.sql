CREATE TABLE `analyses` (
	`capture_id` text PRIMARY KEY NOT NULL,
	`version` integer NOT NULL,
	`overview` text NOT NULL,
	FOREIGN KEY (`capture_id`) REFERENCES `captures`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `bodies` (
	`sha256` text PRIMARY KEY NOT NULL,
	`bytes` blob NOT NULL
);
--> statement-breakpoint
CREATE TABLE `captures` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`sha256` text NOT NULL,
	`file_bytes` integer NOT NULL,
	`imported_at` integer NOT NULL,
	`deleted_at` integer,
	`recorded_at` real,
	`utc_offset_minutes` integer,
	`recorder` text,
	`browser` text,
	`outline` text NOT NULL,
	`completeness` text NOT NULL
);
--> statement-breakpoint
CREATE INDEX `captures_sha256` ON `captures` (`sha256`);--> statement-breakpoint
CREATE TABLE `entries` (
	`capture_id` text NOT NULL,
	`place` integer NOT NULL,
	`raw` text NOT NULL,
	`body_sha256` text,
	`body_form` text,
	PRIMARY KEY(`capture_id`, `place`),
	FOREIGN KEY (`capture_id`) REFERENCES `captures`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`body_sha256`) REFERENCES `bodies`(`sha256`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `entries_body` ON `entries` (`body_sha256`);--> statement-breakpoint
CREATE TABLE `exchanges` (
	`capture_id` text NOT NULL,
	`place` integer NOT NULL,
	`page_id` text,
	`page_inferred` integer NOT NULL,
	`method` text NOT NULL,
	`url` text NOT NULL,
	`host` text NOT NULL,
	`status` integer,
	`protocol` text,
	`kind` text NOT NULL,
	`kind_evidence` text NOT NULL,
	`source` text NOT NULL,
	`source_evidence` text NOT NULL,
	`party` text,
	`started_at` real,
	`start_ms` real,
	`time_ms` real,
	`held_ms` real,
	`lookup_ms` real,
	`connect_ms` real,
	`secure_ms` real,
	`send_ms` real,
	`wait_ms` real,
	`download_ms` real,
	`wire_bytes` integer,
	`body_bytes` integer,
	`mime_type` text,
	`operation` text,
	`failure` text,
	PRIMARY KEY(`capture_id`, `place`),
	FOREIGN KEY (`capture_id`) REFERENCES `captures`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `pages` (
	`capture_id` text NOT NULL,
	`place` integer NOT NULL,
	`raw` text NOT NULL,
	PRIMARY KEY(`capture_id`, `place`),
	FOREIGN KEY (`capture_id`) REFERENCES `captures`(`id`) ON UPDATE no action ON DELETE cascade
);
