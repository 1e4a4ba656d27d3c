CREATE TABLE "session_changes" (
	"session_id" text NOT NULL,
	"revision" integer NOT NULL,
	"changes" jsonb NOT NULL,
	CONSTRAINT "session_changes_session_id_revision_pk" PRIMARY KEY("session_id","revision")
);
--> statement-breakpoint
ALTER TABLE "session_changes" ADD CONSTRAINT "session_changes_session_id_sessions_id_fk" FOREIGN KEY ("session_id") REFERENCES "public"."sessions"("id") ON DELETE cascade ON UPDATE no action;