/** Where a rule here and its script there are not quite the same. */
export const NEAR = {
  signs: "Here punctuation and accents do not count, there they do.",
  whole: "Here it is a whole word, there a word may only begin so.",
  inside: "Here a word has to begin so, there it may stand inside of one.",
  copied: "Here whom it was copied to counts too.",
  names: "Here the name beside an address counts too.",
  files: "There the names of attachments are not looked at.",
  own: "There it is any address it was sent to, here one of your own.",
  list: "There all that is said of the list counts, here its name.",
  unsubscribe: "Here mail that says how to leave it is list mail too.",
  trash: "There it is thrown away, here it goes to Trash.",
  date: "There the flag has no date and no note.",
  kept: "There it is filed and stays in the inbox, here it is only filed.",
  flags: "There a second copy has other flags than the first, here all have the same.",
  after: "That it stops cannot be said there either: rules after it may do more.",
} as const;
export type Near = keyof typeof NEAR;

export const nearText = (codes: Iterable<Near>): string[] => [...new Set(codes)].map((code) => NEAR[code]);

/** What begins comments that mean something when they are read again. */
export const FOR_LIST = "for the list ";
export const REMARK = "remark: ";
