CREATE TABLE "asset_chunks" (
	"upload_id" text NOT NULL,
	"piece" integer NOT NULL,
	"data" "bytea" NOT NULL,
	CONSTRAINT "asset_chunks_upload_id_piece_pk" PRIMARY KEY("upload_id","piece")
);
--> statement-breakpoint
CREATE TABLE "assets" (
	"id" text PRIMARY KEY NOT NULL,
	"upload_id" text NOT NULL,
	"name" text NOT NULL,
	"format" text NOT NULL,
	"bytes" integer NOT NULL,
	"sample_rate_hz" integer NOT NULL,
	"frames" integer NOT NULL,
	"channels" integer NOT NULL,
	"peaks" "bytea" NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "sessions" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"revision" integer NOT NULL,
	"document" jsonb NOT NULL,
	"history" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "settings" (
	"key" text PRIMARY KEY NOT NULL,
	"value" jsonb NOT NULL
);
--> statement-breakpoint
CREATE INDEX "asset_chunks_upload" ON "asset_chunks" USING btree ("upload_id");