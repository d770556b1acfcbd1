ALTER TABLE "plan_history" ADD COLUMN "gesture" text;--> statement-breakpoint
ALTER TABLE "takes" ADD COLUMN "place" double precision;