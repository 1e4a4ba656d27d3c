CREATE TABLE "blob_pieces" (
	"blob_id" text NOT NULL,
	"piece" integer NOT NULL,
	"sum" text NOT NULL,
	CONSTRAINT "blob_pieces_blob_id_piece_pk" PRIMARY KEY("blob_id","piece")
);
--> statement-breakpoint
CREATE TABLE "favourites" (
	"preset_id" text PRIMARY KEY NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "sound_uses" (
	"sound_id" text NOT NULL,
	"kind" text NOT NULL,
	"owner_id" text NOT NULL,
	"part" integer DEFAULT 0 NOT NULL,
	CONSTRAINT "sound_uses_kind_owner_id_part_sound_id_pk" PRIMARY KEY("kind","owner_id","part","sound_id")
);
--> statement-breakpoint
CREATE TABLE "uploads" (
	"id" text PRIMARY KEY NOT NULL,
	"beat_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
DROP INDEX "asset_chunks_upload";--> statement-breakpoint
ALTER TABLE "assets" ALTER COLUMN "bytes" SET DATA TYPE bigint;--> statement-breakpoint
ALTER TABLE "assets" ALTER COLUMN "frames" SET DATA TYPE bigint;--> statement-breakpoint
CREATE INDEX "sound_uses_sound" ON "sound_uses" USING btree ("sound_id");--> statement-breakpoint
CREATE INDEX "sessions_changed" ON "sessions" USING btree ("updated_at","id");--> statement-breakpoint
INSERT INTO "sound_uses" ("sound_id", "kind", "owner_id")
SELECT DISTINCT (regexp_matches("document"::text, '[0-9a-f]{64}', 'g'))[1], 'session', "id" FROM "sessions";--> statement-breakpoint
INSERT INTO "sound_uses" ("sound_id", "kind", "owner_id")
SELECT DISTINCT (regexp_matches("changes"::text, '[0-9a-f]{64}', 'g'))[1], 'session', "session_id" FROM "session_changes"
ON CONFLICT DO NOTHING;--> statement-breakpoint
INSERT INTO "sound_uses" ("sound_id", "kind", "owner_id", "part")
SELECT DISTINCT (regexp_matches("step"::text, '[0-9a-f]{64}', 'g'))[1], 'step', "session_id", "number" FROM "session_steps";--> statement-breakpoint
INSERT INTO "sound_uses" ("sound_id", "kind", "owner_id")
SELECT DISTINCT (regexp_matches("content"::text, '[0-9a-f]{64}', 'g'))[1], 'preset', "id" FROM "presets";--> statement-breakpoint
INSERT INTO "sound_uses" ("sound_id", "kind", "owner_id")
SELECT DISTINCT (regexp_matches("value"::text, '[0-9a-f]{64}', 'g'))[1], 'demo', 'demo' FROM "settings" WHERE "key" = 'demo.installed';--> statement-breakpoint
INSERT INTO "favourites" ("preset_id")
SELECT DISTINCT jsonb_array_elements_text("value") FROM "settings" WHERE "key" = 'presets.favourites';--> statement-breakpoint
DELETE FROM "settings" WHERE "key" = 'presets.favourites';--> statement-breakpoint
INSERT INTO "blob_pieces" ("blob_id", "piece", "sum")
SELECT "upload_id", "piece", encode(sha256("data"), 'hex') FROM "asset_chunks" WHERE "upload_id" IN (SELECT "upload_id" FROM "assets");--> statement-breakpoint
INSERT INTO "uploads" ("id", "beat_at")
SELECT DISTINCT "upload_id", to_timestamp(0) FROM "asset_chunks" WHERE "upload_id" NOT IN (SELECT "upload_id" FROM "assets");--> statement-breakpoint
UPDATE "sessions" SET "summary" = NULL WHERE jsonb_array_length("summary" -> 'picture') > 200;
