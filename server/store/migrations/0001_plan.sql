CREATE TABLE "plan_history" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"site_id" text NOT NULL,
	"what" text NOT NULL,
	"key" text NOT NULL,
	"old" jsonb,
	"new" jsonb,
	"undone" boolean DEFAULT false NOT NULL,
	"who" text NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "sites" ADD COLUMN "archived" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "sites" ADD COLUMN "deleted_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "plan_history" ADD CONSTRAINT "plan_history_site_id_sites_id_fk" FOREIGN KEY ("site_id") REFERENCES "public"."sites"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "plan_history_site" ON "plan_history" USING btree ("site_id","id");--> statement-breakpoint
-- sites made before rooms had surfaces, loudspeakers an aim, and the air a later state
UPDATE "sites" SET "plan" = ("plan" #- '{room,decay}')
  || jsonb_build_object('room', jsonb_build_object('size', "plan"->'room'->'size', 'surfaces', '{"front":"curtain","back":"plasterboard","left":"brick","right":"brick","floor":"seats-empty","ceiling":"timber-panel"}'::jsonb))
  || jsonb_build_object('airLater', "plan"->'air')
  WHERE "plan"->'room'->'surfaces' IS NULL;
--> statement-breakpoint
UPDATE "sources" SET "elements" = (SELECT jsonb_agg(e || '{"aim":{"turn":0,"tilt":0}}'::jsonb ORDER BY n) FROM jsonb_array_elements("elements") WITH ORDINALITY AS x(e, n))
  WHERE "elements"->0->'aim' IS NULL;
