CREATE TABLE "aside" (
	"person" bigint NOT NULL,
	"source" text NOT NULL,
	"state" text NOT NULL,
	"at" timestamp (3) with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "aside_person_source_pk" PRIMARY KEY("person","source")
);
--> statement-breakpoint
-- Everybody has a place for it: the folder of that name where there is one.
UPDATE folder SET role = 'aside' WHERE lower(path) = 'aside' AND NOT removed AND role IS NULL;
--> statement-breakpoint
INSERT INTO folder (person, path, role)
SELECT p.id, CASE WHEN EXISTS (SELECT FROM folder f WHERE f.person = p.id AND NOT f.removed AND lower(f.path) = 'aside')
  THEN 'Mail aside' ELSE 'Aside' END, 'aside'
FROM person p WHERE NOT EXISTS (SELECT FROM folder f WHERE f.person = p.id AND f.role = 'aside');
