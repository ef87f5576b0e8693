/** What a new password must not be. Length is what counts (NIST SP 800-63B), and that it is nobody's first guess. */

const LEAST_PASSWORD = 12;
const LEAST_LETTERS = 5;
/** Of what a password is made of so much may follow from what stands before it. */
const MOST_EXPECTED = 0.6;

/** Where one thing follows another on many keyboards, and in order. */
const RUNS = ["qwertyuiop", "qwertzuiop", "azertyuiop", "asdfghjkl", "yxcvbnm", "zxcvbnm", "01234567890"];
const NEXT = new Set(RUNS.flatMap((run) => [...run].slice(1).flatMap((key, i) => [run[i]! + key, key + run[i]!])));

const follows = (before: string, key: string): boolean =>
  before === key || NEXT.has(before + key) || Math.abs(before.codePointAt(0)! - key.codePointAt(0)!) === 1;

/** Whether it is one piece again and again, the last time perhaps not all of it. */
const isRepeated = (letters: readonly string[]): boolean => {
  for (let length = 1; length <= letters.length / 2; length++)
    if (letters.every((letter, i) => i < length || letter === letters[i - length])) return true;
  return false;
};

/** What is wrong with a new password, in words; null where it will do. */
export function passwordProblem(password: string): string | null {
  const letters = [...password.normalize("NFKC")];
  if (letters.length < LEAST_PASSWORD) return `Use at least ${LEAST_PASSWORD} characters: a few words will do.`;
  if (new Set(letters).size < LEAST_LETTERS) return "The same few characters again and again are soon guessed.";
  const keys = [...password.normalize("NFKC").toLowerCase()];
  if (isRepeated(keys)) return "The same again and again is soon guessed: write a few words instead.";
  const expected = keys.filter((key, i) => i > 0 && follows(keys[i - 1]!, key)).length;
  if (expected > MOST_EXPECTED * (keys.length - 1))
    return "Keys in a row, and letters in their order, are soon guessed: write a few words instead.";
  return null;
}
