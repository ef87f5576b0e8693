/** What a browser calls itself (RFC 9110, User-Agent), as people would: the last name in it, and what it runs on. */

const SYSTEMS = [
  [/android/i, "Android"],
  [/iphone|ipad/i, "iOS"],
  [/windows/i, "Windows"],
  [/mac os/i, "macOS"],
  [/linux/i, "Linux"],
] as const;
/** Each next one calls itself all that those before did. */
const BROWSERS = [
  [/\bEdg\w*\/(\d+)/, "Edge"],
  [/\bFirefox\/(\d+)/, "Firefox"],
  [/Chrom(?:e|ium)\/(\d+)/, "Chromium"],
  [/\bVersion\/(\d+).*Safari/, "Safari"],
] as const;

export function agentText(agent: string): string {
  const system = SYSTEMS.find(([pattern]) => pattern.test(agent))?.[1];
  for (const [pattern, name] of BROWSERS) {
    const version = pattern.exec(agent)?.[1];
    if (version !== undefined) return `${name} ${version}${system ? ` on ${system}` : ""}`;
  }
  const first = agent.trim().split(/[\s/]/)[0];
  return first ? `a program: ${first}` : "a program without a name";
}
