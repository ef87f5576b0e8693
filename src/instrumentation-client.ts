import { config } from "zod";
import { leaveFor } from "@/ui/input/gone-to";

/**
 * Before anything of a page runs (a convention of Next.js): the policy of pages lets no text become a program, which
 * is what checks are otherwise tried to be made faster with.
 */
config({ jitless: true });

/** The router begins to bring another screen (a convention of Next.js). */
export const onRouterTransitionStart = (href: string): void => leaveFor(href);
