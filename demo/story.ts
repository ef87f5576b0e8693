import type { Multipart, Part } from "./mime";
import type { Random } from "./random";
import type { Alias, Person } from "./world";

/** One message of a story, before it has a date and an id. */
export interface Letter {
  /** Where it is filed once somebody has dealt with it. */
  readonly folder: string;
  readonly from: Person;
  readonly to: Alias | readonly Person[];
  readonly subject: string;
  readonly text: string;
  readonly html?: string;
  readonly files?: readonly Part[];
  readonly headers?: readonly (readonly [string, string])[];
  /** Replaces text, html and files, for messages built in some other way. */
  readonly body?: Part | Multipart;
  readonly keywords?: readonly string[];
  /** Nobody at the office ever reads it. */
  readonly ignored?: boolean;
  /** Hours after the letter before it. */
  readonly after?: number;
  /** Written by the office itself. */
  readonly sent?: boolean;
  /** Quotes the letter before it, below its own text. */
  readonly quotes?: boolean;
}

/** Letters that answer each other, oldest first. */
export type Story = readonly Letter[];
export type Kind = (r: Random, date: Date) => Story;

export const paragraphs = (...parts: readonly (string | false | null | undefined)[]): string =>
  `${parts.filter(Boolean).join("\n\n")}\n`;

export const re = (subject: string): string => (/^re:/i.test(subject) ? subject : `Re: ${subject}`);

const escape = (text: string): string => text.replace(/&/g, "&amp;").replace(/</g, "&lt;").replace(/>/g, "&gt;");

/** A plain page of the text, as mail programs make one beside it. */
export const asHtml = (text: string, extra = ""): string =>
  `<!doctype html><html><body style="font-family:sans-serif">${escape(text)
    .trim()
    .split("\n\n")
    .map((p) => `<p>${p.replaceAll("\n", "<br>")}</p>`)
    .join("\n")}${extra}</body></html>`;
