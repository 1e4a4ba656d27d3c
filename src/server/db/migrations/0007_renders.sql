CREATE TABLE "renders" (
	"id" text PRIMARY KEY NOT NULL,
	"key" text NOT NULL,
	"kind" text NOT NULL,
	"name" text NOT NULL,
	"session_id" text,
	"request" jsonb,
	"request_blob" text,
	"request_bytes" integer NOT NULL,
	"engine_version" integer NOT NULL,
	"document_version" integer NOT NULL,
	"state" text NOT NULL,
	"priority" integer NOT NULL,
	"attempt" integer DEFAULT 0 NOT NULL,
	"progress" double precision DEFAULT 0 NOT NULL,
	"worker_id" text,
	"machine" text,
	"queue_job" text,
	"result" jsonb,
	"result_blob" text,
	"result_bytes" bigint,
	"error" jsonb,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"started_at" timestamp with time zone,
	"ended_at" timestamp with time zone,
	CONSTRAINT "renders_key_unique" UNIQUE("key")
);
--> statement-breakpoint
CREATE TABLE "workers" (
	"id" text PRIMARY KEY NOT NULL,
	"machine" text NOT NULL,
	"engine_version" integer NOT NULL,
	"document_version" integer NOT NULL,
	"jobs" integer NOT NULL,
	"beat_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE INDEX "renders_session" ON "renders" USING btree ("session_id");--> statement-breakpoint
CREATE INDEX "renders_state" ON "renders" USING btree ("state","created_at");