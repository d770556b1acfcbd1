-- Everything becomes documents and changes. What there was moves aside, is read once by server/store/upgrade.ts, and goes then.
CREATE SCHEMA "first";--> statement-breakpoint
ALTER TABLE "sites" SET SCHEMA "first";--> statement-breakpoint
ALTER TABLE "sources" SET SCHEMA "first";--> statement-breakpoint
ALTER TABLE "positions" SET SCHEMA "first";--> statement-breakpoint
ALTER TABLE "devices" SET SCHEMA "first";--> statement-breakpoint
ALTER TABLE "plan_history" SET SCHEMA "first";--> statement-breakpoint
ALTER TABLE "setting_history" SET SCHEMA "first";--> statement-breakpoint
ALTER TABLE "takes" SET SCHEMA "first";--> statement-breakpoint
ALTER TABLE "log" SET SCHEMA "first";--> statement-breakpoint
CREATE TABLE "changes" (
	"site_id" text NOT NULL,
	"number" integer NOT NULL,
	"document" text NOT NULL,
	"path" text NOT NULL,
	"value" jsonb NOT NULL,
	"gesture" text,
	"who" text NOT NULL,
	"person" text NOT NULL,
	"origin" text NOT NULL,
	"live" boolean NOT NULL,
	"undo" text NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "changes_site_id_number_pk" PRIMARY KEY("site_id","number")
);
--> statement-breakpoint
CREATE TABLE "claims" (
	"address" text PRIMARY KEY NOT NULL,
	"site_id" text NOT NULL,
	"device_id" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "contents" (
	"hash" text PRIMARY KEY NOT NULL,
	"content" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "documents" (
	"site_id" text NOT NULL,
	"key" text NOT NULL,
	"content" jsonb NOT NULL,
	CONSTRAINT "documents_site_id_key_pk" PRIMARY KEY("site_id","key")
);
--> statement-breakpoint
CREATE TABLE "leases" (
	"id" text PRIMARY KEY NOT NULL,
	"site_id" text NOT NULL,
	"person" text NOT NULL,
	"who" text NOT NULL,
	"what" text NOT NULL,
	"until" timestamp with time zone NOT NULL,
	"entries" jsonb NOT NULL
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
CREATE TABLE "sites" (
	"id" text PRIMARY KEY NOT NULL,
	"number" integer DEFAULT 0 NOT NULL,
	"version" integer NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"touched_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "take_data" (
	"site_id" text NOT NULL,
	"id" text NOT NULL,
	"data" "bytea" NOT NULL,
	CONSTRAINT "take_data_site_id_id_pk" PRIMARY KEY("site_id","id")
);
--> statement-breakpoint
ALTER TABLE "changes" ADD CONSTRAINT "changes_site_id_sites_id_fk" FOREIGN KEY ("site_id") REFERENCES "public"."sites"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "claims" ADD CONSTRAINT "claims_site_id_sites_id_fk" FOREIGN KEY ("site_id") REFERENCES "public"."sites"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "documents" ADD CONSTRAINT "documents_site_id_sites_id_fk" FOREIGN KEY ("site_id") REFERENCES "public"."sites"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "leases" ADD CONSTRAINT "leases_site_id_sites_id_fk" FOREIGN KEY ("site_id") REFERENCES "public"."sites"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "log" ADD CONSTRAINT "log_site_id_sites_id_fk" FOREIGN KEY ("site_id") REFERENCES "public"."sites"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "take_data" ADD CONSTRAINT "take_data_site_id_sites_id_fk" FOREIGN KEY ("site_id") REFERENCES "public"."sites"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "changes_undo" ON "changes" USING btree ("site_id","person","undo","number");--> statement-breakpoint
CREATE INDEX "log_site" ON "log" USING btree ("site_id","id");