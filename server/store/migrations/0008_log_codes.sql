ALTER TABLE "log" ADD COLUMN "code" text;--> statement-breakpoint
ALTER TABLE "log" ADD COLUMN "values" jsonb;--> statement-breakpoint
-- what a take's line says by its name is found by its code from now on, and goes when the take goes for good
UPDATE "log" SET "code" = 'log.take.saved', "values" = jsonb_build_object('name', substring("what" from '^Took “(.*)”\.$'))
	WHERE "what" ~ '^Took “.*”\.$';
