CREATE TABLE "addresses" (
	"address" text PRIMARY KEY NOT NULL,
	"who" text NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "keeping" (
	"name" text PRIMARY KEY NOT NULL,
	"value" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "sessions" (
	"id" text PRIMARY KEY NOT NULL,
	"person" text NOT NULL,
	"who" text NOT NULL,
	"seen" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
-- what Kovrin drives already was confirmed by whoever set it up
INSERT INTO "addresses" ("address", "who") SELECT "address", 'Before this was asked' FROM "claims" ON CONFLICT DO NOTHING;
