CREATE TABLE `corrections` (
	`capture_a` text NOT NULL,
	`place_a` integer NOT NULL,
	`capture_b` text NOT NULL,
	`place_b` integer NOT NULL,
	`is_same` integer NOT NULL,
	PRIMARY KEY(`capture_a`, `place_a`, `capture_b`, `place_b`),
	FOREIGN KEY (`capture_a`) REFERENCES `captures`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`capture_b`) REFERENCES `captures`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `corrections_b` ON `corrections` (`capture_b`);