ALTER TABLE "draft_file" ADD COLUMN "cid" text;--> statement-breakpoint
-- N writes a new message since 0010. Who had put N on a deck before, or began keys in a row with it, keeps that.
UPDATE person p SET settings = jsonb_set(settings, '{frame}', COALESCE(settings->'frame', '{}') || '{"compose": []}')
WHERE NOT COALESCE(settings->'frame', '{}') ? 'compose' AND EXISTS (
  SELECT FROM deck d WHERE d.person = p.id AND (d.pads::text LIKE '%"KeyN%' OR d.extra::text LIKE '%"KeyN%'));
