/**
 * For the web server: connections stay open for longer than a browser keeps one it does not use (five minutes). Closed
 * by the server first, one may be closed just when a request is on its way, which is lost then.
 */
export const KEPT_OPEN = ["--keepAliveTimeout", "330000"];
