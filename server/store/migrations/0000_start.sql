CREATE TABLE "devices" (
	"id" text NOT NULL,
	"site_id" text NOT NULL,
	"order" integer NOT NULL,
	"name" text NOT NULL,
	"address" text NOT NULL,
	"capability" jsonb NOT NULL,
	"draft" jsonb NOT NULL,
	"held" jsonb,
	"revision" integer DEFAULT 0 NOT NULL,
	CONSTRAINT "devices_site_id_id_pk" PRIMARY KEY("site_id","id")
);
--> statement-breakpoint
CREATE TABLE "log" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"site_id" text NOT NULL,
	"who" text NOT NULL,
	"what" text NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "positions" (
	"id" text NOT NULL,
	"site_id" text NOT NULL,
	"order" integer NOT NULL,
	"name" text NOT NULL,
	"place" jsonb NOT NULL,
	"weight" jsonb NOT NULL,
	"dash" integer NOT NULL,
	CONSTRAINT "positions_site_id_id_pk" PRIMARY KEY("site_id","id")
);
--> statement-breakpoint
CREATE TABLE "setting_history" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"site_id" text NOT NULL,
	"device_id" text NOT NULL,
	"path" text NOT NULL,
	"old" jsonb,
	"new" jsonb,
	"kind" text NOT NULL,
	"who" text NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "sites" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"plan" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"touched_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "sources" (
	"id" text NOT NULL,
	"site_id" text NOT NULL,
	"order" integer NOT NULL,
	"name" text NOT NULL,
	"hue" integer NOT NULL,
	"elements" jsonb NOT NULL,
	CONSTRAINT "sources_site_id_id_pk" PRIMARY KEY("site_id","id")
);
--> statement-breakpoint
CREATE TABLE "takes" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"site_id" text NOT NULL,
	"source_id" text NOT NULL,
	"position_id" text NOT NULL,
	"name" text NOT NULL,
	"info" jsonb NOT NULL,
	"feed" jsonb NOT NULL,
	"settings" jsonb NOT NULL,
	"data" "bytea" NOT NULL,
	"who" text NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "devices" ADD CONSTRAINT "devices_site_id_sites_id_fk" FOREIGN KEY ("site_id") REFERENCES "public"."sites"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "log" ADD CONSTRAINT "log_site_id_sites_id_fk" FOREIGN KEY ("site_id") REFERENCES "public"."sites"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "positions" ADD CONSTRAINT "positions_site_id_sites_id_fk" FOREIGN KEY ("site_id") REFERENCES "public"."sites"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "setting_history" ADD CONSTRAINT "setting_history_site_id_sites_id_fk" FOREIGN KEY ("site_id") REFERENCES "public"."sites"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "setting_history" ADD CONSTRAINT "setting_history_site_id_device_id_devices_site_id_id_fk" FOREIGN KEY ("site_id","device_id") REFERENCES "public"."devices"("site_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sources" ADD CONSTRAINT "sources_site_id_sites_id_fk" FOREIGN KEY ("site_id") REFERENCES "public"."sites"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "takes" ADD CONSTRAINT "takes_site_id_sites_id_fk" FOREIGN KEY ("site_id") REFERENCES "public"."sites"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "takes" ADD CONSTRAINT "takes_site_id_source_id_sources_site_id_id_fk" FOREIGN KEY ("site_id","source_id") REFERENCES "public"."sources"("site_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "takes" ADD CONSTRAINT "takes_site_id_position_id_positions_site_id_id_fk" FOREIGN KEY ("site_id","position_id") REFERENCES "public"."positions"("site_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "log_site" ON "log" USING btree ("site_id","id");--> statement-breakpoint
CREATE INDEX "setting_history_site" ON "setting_history" USING btree ("site_id","id");--> statement-breakpoint
CREATE INDEX "takes_cell" ON "takes" USING btree ("site_id","source_id","position_id");