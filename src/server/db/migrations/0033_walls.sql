-- Requests come as the role tachyne_web, which the tables' owner has made. It sees a row only where its connection
-- says, in tachyne.person, whose rows are asked for: 0 is whoever is not signed in.
CREATE FUNCTION own_person() RETURNS bigint LANGUAGE sql STABLE PARALLEL SAFE
AS $$ SELECT nullif(current_setting('tachyne.person', true), '')::bigint $$;
--> statement-breakpoint
DO $walls$
DECLARE one text;
BEGIN
  FOREACH one IN ARRAY ARRAY[
    'account', 'aside', 'batch', 'blocked', 'contact', 'contact_group', 'content', 'deck', 'draft', 'draft_file',
    'due', 'event', 'filed_draft', 'filing', 'filing_due', 'filing_journal', 'filing_receipt', 'folder',
    'folder_count', 'habit', 'habit_declined', 'habit_mark', 'habit_sequence', 'held', 'hours', 'hours_held',
    'identity', 'job', 'label', 'leaving', 'ledger', 'listed', 'macro', 'mailbox', 'marker', 'message',
    'message_state', 'narrowed', 'pace_count', 'pace_mark', 'pace_source', 'pace_stay', 'pass', 'pass_deed', 'pause',
    'placement', 'report', 'rule', 'sender', 'simulated_left', 'simulated_mail', 'simulated_report',
    'simulated_sent', 'simulator', 'task', 'template', 'thread_id', 'thread_subject', 'timer', 'word_index',
    'written_to'
  ] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', one);
    EXECUTE format('CREATE POLICY own ON %I USING (person = (SELECT own_person()))', one);
  END LOOP;
  -- How somebody comes in is looked up before it is known who they are.
  FOREACH one IN ARRAY ARRAY[
    'challenge', 'once_link', 'passkey', 'recovery_code', 'session', 'sign_in', 'token'
  ] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', one);
    EXECUTE format('CREATE POLICY own ON %I USING (person = (SELECT own_person()) OR (SELECT own_person()) = 0)', one);
  END LOOP;
END $walls$;
--> statement-breakpoint
ALTER TABLE person ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
CREATE POLICY own ON person USING (id = (SELECT own_person()) OR (SELECT own_person()) = 0);
--> statement-breakpoint
ALTER TABLE job_chunk ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
-- Jobs are behind the wall themselves.
CREATE POLICY own ON job_chunk USING (EXISTS (SELECT FROM job WHERE job.id = job_chunk.job));
--> statement-breakpoint
ALTER TABLE calendar ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
CREATE POLICY own ON calendar USING (person = (SELECT own_person()));
--> statement-breakpoint
-- Whoever has the address of a calendar reads it without being anybody.
CREATE POLICY shared ON calendar FOR SELECT USING (secret IS NOT NULL AND (SELECT own_person()) = 0);
--> statement-breakpoint
-- No index of words could be used behind a policy, since what looks into it is not known to keep what it sees to
-- itself. So requests see words through a view, which shows no more, and the table not at all.
CREATE SCHEMA wall;
--> statement-breakpoint
CREATE VIEW wall.message_words AS
  SELECT * FROM public.message_words WHERE person = (SELECT own_person()) WITH CASCADED CHECK OPTION;
