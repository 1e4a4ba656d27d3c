CREATE TABLE "session_steps" (
	"session_id" text NOT NULL,
	"number" integer NOT NULL,
	"step" jsonb NOT NULL,
	CONSTRAINT "session_steps_session_id_number_pk" PRIMARY KEY("session_id","number")
);
--> statement-breakpoint
ALTER TABLE "assets" ADD COLUMN "used_at" timestamp with time zone DEFAULT now() NOT NULL;--> statement-breakpoint
ALTER TABLE "sessions" ADD COLUMN "summary" jsonb;--> statement-breakpoint
ALTER TABLE "sessions" ADD COLUMN "save_id" text;--> statement-breakpoint
ALTER TABLE "sessions" ADD COLUMN "step_cursor" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "session_steps" ADD CONSTRAINT "session_steps_session_id_sessions_id_fk" FOREIGN KEY ("session_id") REFERENCES "public"."sessions"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
INSERT INTO "session_steps" ("session_id", "number", "step")
SELECT s."id", past.place - 1, past.step
FROM "sessions" s, jsonb_array_elements(s."history" -> 'past') WITH ORDINALITY AS past(step, place);--> statement-breakpoint
INSERT INTO "session_steps" ("session_id", "number", "step")
SELECT s."id", jsonb_array_length(s."history" -> 'past') + jsonb_array_length(s."history" -> 'future') - future.place, future.step
FROM "sessions" s, jsonb_array_elements(s."history" -> 'future') WITH ORDINALITY AS future(step, place);--> statement-breakpoint
UPDATE "sessions" SET "step_cursor" = jsonb_array_length("history" -> 'past');
