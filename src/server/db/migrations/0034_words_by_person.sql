-- An index of words leads to the messages of everybody who has the word. So there are sixteen of them: a search looks
-- into the one of its person, whom it shares with a sixteenth of the others.
-- What requests wait for meanwhile is taken in the order in which they take it: the view, then what is behind it.
LOCK TABLE wall.message_words IN ACCESS EXCLUSIVE MODE;
--> statement-breakpoint
ALTER TABLE message_words RENAME TO message_words_before;
--> statement-breakpoint
ALTER TABLE message_words_before RENAME CONSTRAINT message_words_person_message_pk TO message_words_before_pk;
--> statement-breakpoint
ALTER INDEX message_words_words RENAME TO message_words_before_words;
--> statement-breakpoint
CREATE TABLE message_words (
  person bigint NOT NULL,
  message bigint NOT NULL,
  words tsvector NOT NULL,
  CONSTRAINT message_words_person_message_pk PRIMARY KEY (person, message)
) PARTITION BY HASH (person);
--> statement-breakpoint
-- Requests may not enter here: what they see of it they see through the view.
CREATE SCHEMA parts;
--> statement-breakpoint
DO $parts$
BEGIN
  FOR part IN 0..15 LOOP
    EXECUTE format(
      'CREATE TABLE parts.message_words_%s PARTITION OF message_words FOR VALUES WITH (MODULUS 16, REMAINDER %s)', part, part);
  END LOOP;
END $parts$;
--> statement-breakpoint
INSERT INTO message_words SELECT person, message, words FROM message_words_before;
--> statement-breakpoint
-- Replaced, not made anew: whoever may look through it may go on.
CREATE OR REPLACE VIEW wall.message_words AS
  SELECT * FROM public.message_words WHERE person = (SELECT own_person()) WITH CASCADED CHECK OPTION;
--> statement-breakpoint
DROP TABLE message_words_before;
--> statement-breakpoint
CREATE INDEX message_words_words ON message_words USING gin (words);
