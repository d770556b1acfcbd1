ALTER TABLE "takes" ADD COLUMN "note" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "takes" ADD COLUMN "hue" integer;--> statement-breakpoint
ALTER TABLE "takes" ADD COLUMN "offset" double precision DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "takes" ADD COLUMN "shift" double precision DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "takes" ADD COLUMN "deleted_at" timestamp with time zone;