/** What is wrong, and what to do: RFC 9457. @param more members beside the standard's */
export const problem = (
  status: number,
  title: string,
  detail: string,
  { type = "about:blank", ...more }: { readonly type?: string; readonly issues?: readonly object[] } = {},
): Response =>
  Response.json(
    { type, title, status, detail, ...more },
    { status, headers: { "content-type": "application/problem+json" } },
  );
