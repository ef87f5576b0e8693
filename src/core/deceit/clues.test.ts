import { describe, expect, test } from "vitest";
import { failedChecks, falseLinks, oddFiles } from ".";

describe("a link says one place and leads to another", () => {
  test.each([
    ['<a href="https://evil.test/x">https://larch.example/pay</a>', "https://larch.example/pay", "evil.test"],
    ["<a href='http://evil.test'>larch.example</a>", "larch.example", "evil.test"],
    ['<A HREF="https://evil.test">www.<b>larch</b>.example/a</A>', "www.larch.example/a", "evil.test"],
    ['<a href="https://larch.example@evil.test/">larch.example</a>', "larch.example", "evil.test"],
    ['<a href="https://xn--lrch-53d.example/">larch.example</a>', "larch.example", "lаrch.example"],
    ['<a href="https://1.2.3.4/">larch.example:443</a>', "larch.example:443", "1.2.3.4"],
    ['<p><a href="https://evil.test">\n  larch.example now!</a>', "larch.example now!", "evil.test"],
    ['<a href="https://evil.test">larch&#46;example</a>', "larch.example", "evil.test"],
    // One that is never closed ends where the next begins.
    ['<a href="https://evil.test">larch.example<a href="https://b.test">b.test</a>', "larch.example", "evil.test"],
    ['<a href="https://evil.test">https://larch.example/plan.pdf</a>', "https://larch.example/plan.pdf", "evil.test"],
  ])("%s", (html, text, to) => {
    const [link, ...more] = falseLinks(html);
    expect([link!.text, link!.to, more]).toEqual([text, to, []]);
    expect(link!.said).toMatch(/^(www\.)?larch\.example$/);
  });

  test.each([
    '<a href="https://larch.example/x">larch.example</a>',
    '<a href="https://www.larch.example/x">https://shop.larch.example</a>',
    '<a href="https://evil.test">Click here</a>',
    '<a href="https://evil.test">see larch.example</a>',
    '<a href="mailto:bo@evil.test">larch.example</a>',
    '<a href="https://evil.test">bo@larch.example</a>',
    '<a href="https://evil.test">plan.pdf</a>',
    '<a href="not an address">larch.example</a>',
    '<a name="here">larch.example</a>',
    '<a href="javascript:alert(1)">larch.example</a>',
    '<a href="https://evil.test"><img src="x"></a> larch.example',
    "larch.example",
    "",
  ])("but not in %s", (html) => expect(falseLinks(html)).toEqual([]));

  test("of many, each place once and only a few; what is huge ends soon", () => {
    const link = (n: number) => `<a href="https://evil${n}.test">larch.example</a>`;
    expect(falseLinks(link(1) + link(1))).toHaveLength(1);
    expect(falseLinks(Array.from({ length: 30 }, (_, n) => link(n)).join(""))).toHaveLength(5);
    expect(falseLinks(`${"<a href='x'>".repeat(600)}${link(1)}`)).toEqual([]);
    expect(falseLinks(`${" ".repeat(200_000)}${link(1)}`)).toEqual([]);
    expect(falseLinks(`${" ".repeat(190_000)}${link(1)}`)).toHaveLength(1);
  });
});

describe("files that are not what they look like", () => {
  test.each(["invoice.exe", "invoice.pdf.exe", "INVOICE.SCR", "plan.js ", "a.docm", "login.html", "x.svg", "s.lnk"])(
    "%s",
    (name) => expect(oddFiles([name])).toEqual([name]),
  );
  test("a name whose direction is turned around", () => expect(oddFiles(["in\u202Egpj.doc"])).toHaveLength(1));
  test.each(["plan.pdf", "exe", "photo.jpeg", "notes.txt", "", "a.docx", "html", "archive.zip", "exe.pdf"])(
    "but not %s",
    (name) => expect(oddFiles([name])).toEqual([]),
  );
  test("a few of many", () => expect(oddFiles(Array.from({ length: 9 }, (_, n) => `${n}.exe`))).toHaveLength(5));
});

describe("what servers say failed", () => {
  test.each([
    ["mx.larch.example; dmarc=fail (p=reject) header.from=x.test", "dmarc=fail"],
    ["MX.larch.example 1; spf=pass; dkim=pass; dmarc=fail", "dmarc=fail"],
    ["mx.larch.example; spf=fail smtp.mailfrom=x.test", "spf=fail"],
    ["mx.larch.example;\r\n dkim=fail (bad signature; spf=pass) header.d=x.test", "dkim=fail"],
    ["mx.larch.example; spf=hardfail; dkim=fail", "dkim=fail"],
    ["mx.larch.example; DKIM = FAIL", "dkim=fail"],
  ])("%s", (header, check) => expect(failedChecks([header])).toEqual([{ server: "mx.larch.example", check }]));
  test.each([
    "mx.larch.example; none",
    "mx.larch.example; spf=softfail; dkim=none",
    "mx.larch.example; spf=fail; dkim=pass",
    "mx.larch.example; dkim=fail; spf=pass",
    "mx.larch.example; spf=fail; dkim=fail; dmarc=pass",
    "mx.larch.example; arc=fail; auth=fail",
    "mx.larch.example",
    "; dmarc=fail",
    "",
  ])("but not %s", (header) => expect(failedChecks([header])).toEqual([]));
  test("of each server by itself, in their order", () => {
    expect(failedChecks(["a.example; spf=fail", "b.example; spf=pass", "c.example; dmarc=fail"])).toEqual([
      { server: "a.example", check: "spf=fail" },
      { server: "c.example", check: "dmarc=fail" },
    ]);
  });
});
