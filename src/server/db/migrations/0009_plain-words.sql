ALTER TABLE `exchanges` RENAME COLUMN `held_ms` TO `blocked_ms`;--> statement-breakpoint
ALTER TABLE `exchanges` RENAME COLUMN `lookup_ms` TO `dns_ms`;--> statement-breakpoint
ALTER TABLE `exchanges` RENAME COLUMN `secure_ms` TO `tls_ms`;--> statement-breakpoint
ALTER TABLE `exchanges` RENAME COLUMN `download_ms` TO `receive_ms`;--> statement-breakpoint
UPDATE `settings` SET `name` = 'filters' WHERE `name` = 'sifts';
