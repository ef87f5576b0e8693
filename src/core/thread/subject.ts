/** Prefixes that replies and forwards put before a subject, in the languages met most. */
const PREFIX = /^\s*(?:re|aw|sv|antw|odp|vs|ref|fw|fwd|wg|tr|rv|enc)(?:\[\d{1,3}\]|\(\d{1,3}\))?\s*:\s*/i;
const LIST_TAG = /^\s*\[[^\][]{1,40}\]\s*/;

/** The subject without reply and list prefixes, and whether there was a reply or forward prefix. */
export function baseSubject(subject: string): { base: string; isReply: boolean } {
  let rest = subject.slice(0, 998);
  let isReply = false;
  for (;;) {
    const shorter = rest.replace(PREFIX, "");
    if (shorter !== rest) isReply = true;
    const bare = shorter.replace(LIST_TAG, "");
    // A subject that is only a tag keeps it.
    if (bare.trim() === "" || bare === rest) return { base: (bare.trim() === "" ? shorter : bare).trim(), isReply };
    rest = bare;
  }
}
