import { writeFileSync } from "node:fs";
import { demoWorld } from "./demo-world";
import { byProject, drifting, manySmall } from "./habits";
import { blend, lastFolder, naiveBayes, online } from "./methods";
import { prequential, type Score } from "./prequential";

/** Compares ways to guess where mail belongs, on mailboxes of different habits. Writes the page to the file it is given. */
const [out] = process.argv.slice(2);
const METHODS = [lastFolder, naiveBayes, online, blend];
const MAILBOXES = [await demoWorld(6000, 7), manySmall(6000, 300, 11), byProject(6000, 30, 12), drifting(6000, 40, 13)];
const percent = (share: number): string => (100 * share).toFixed(1);
const row = (name: string, { top1, top3, top5, coverage, ece, us }: Score): string =>
  `| ${[name, percent(top1), percent(top3), percent(top5), percent(coverage), percent(ece), us.toFixed(0)].join(" | ")} |`;
const sections = MAILBOXES.map((habits) => {
  const lines = METHODS.map((method) => {
    const made = method();
    const score = prequential(habits, made);
    process.stderr.write(`${habits.name}: ${made.name} ${percent(score.top1)} %\n`);
    return row(made.name, score);
  });
  const best = habits.best === null ? "" : ` Somebody who knows the habits gets ${percent(habits.best)} % right.`;
  return [
    `## ${habits.name}\n`,
    `${habits.filed.length.toLocaleString("en")} filings, of which the last nine tenths count.${best}\n`,
    "| way | first right, % | in three | in five | sure enough for 90 % | calibration error | µs |",
    "| --- | ---: | ---: | ---: | ---: | ---: | ---: |",
    ...lines,
  ].join("\n");
});
const page = `# Where mail belongs: ways to guess

Made by \`npm run filing-report\`. Each message is guessed by what was filed before it, then learned from. _Sure enough for 90 %_ is the largest share of messages, the surest first, of which nine in ten are right; the calibration error is the mean distance, in points, between how sure guesses were and how often they were right.

**How the app does it** (\`src/core/filing\`): for each kind of evidence (thread, list, sender, domain, people with it, alias, words of subject and text, endings of attached files, amounts and dates, time) it counts what was filed where, in whole numbers by month, and takes for each folder the logarithm of how much likelier it is with the evidence than without; older months count less. What each kind is worth is learned by gradient steps on the logarithmic loss, in whole numbers too. So a filing that is taken back is unlearned to the last bit, in any order, by the receipt it left. How sure a guess is, is how often guesses that seemed so likely have been right lately, smoothed so that it never falls where what seems likelier rises.

${sections.join("\n\n")}
`;
if (out) writeFileSync(out, page);
else process.stdout.write(page);
