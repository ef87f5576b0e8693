import { config } from "zod";

/**
 * Before anything of a page runs (a convention of Next.js): the policy of pages lets no text become a program, which
 * is what checks are otherwise tried to be made faster with.
 */
config({ jitless: true });
