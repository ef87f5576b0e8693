import ts from "typescript";

/** Small faults that can be put into a source: each a span and what stands there instead. */

const S = ts.SyntaxKind;
const SWAPPED = new Map([
  [S.LessThanToken, "<="],
  [S.LessThanEqualsToken, "<"],
  [S.GreaterThanToken, ">="],
  [S.GreaterThanEqualsToken, ">"],
  [S.EqualsEqualsEqualsToken, "!=="],
  [S.ExclamationEqualsEqualsToken, "==="],
  [S.AmpersandAmpersandToken, "||"],
  [S.BarBarToken, "&&"],
  [S.PlusToken, "-"],
  [S.MinusToken, "+"],
  [S.AsteriskToken, "+"],
  [S.SlashToken, "*"],
  [S.BarToken, "&"],
  [S.AmpersandToken, "|"],
]);
const CALLS = new Map([
  ["every", "some"],
  ["some", "every"],
  ["min", "max"],
  ["max", "min"],
  ["find", "findLast"],
  ["startsWith", "endsWith"],
]);
/** Calls that can be left out, as if they changed nothing. */
const LEFT_OUT = new Set(["sort", "reverse", "filter", "trim", "slice", "toLowerCase"]);

const isText = (node) => ts.isStringLiteralLike(node) || node.kind === S.TemplateExpression;

/** Whether only wording hangs on it: sums of texts are not looked at by their signs. */
const joinsTexts = (node) => isText(node.left) || isText(node.right);

function* at(node, source) {
  const text = (part) => part.getText(source);
  const span = (part, instead, what) => ({ from: part.getStart(source), to: part.getEnd(), instead, what });
  if (ts.isBinaryExpression(node)) {
    const instead = SWAPPED.get(node.operatorToken.kind);
    if (instead && !joinsTexts(node))
      yield span(node.operatorToken, instead, `${text(node.operatorToken)} → ${instead}`);
    if (node.operatorToken.kind === S.QuestionQuestionToken)
      yield span(node, text(node.right), "?? always takes the right side");
  }
  if (ts.isIfStatement(node)) yield span(node.expression, `!(${text(node.expression)})`, "condition turned round");
  if (ts.isConditionalExpression(node))
    yield span(node.condition, `!(${text(node.condition)})`, "condition turned round");
  if (ts.isPrefixUnaryExpression(node) && node.operator === S.ExclamationToken)
    yield span(node, text(node.operand), "! left out");
  if (node.kind === S.TrueKeyword || node.kind === S.FalseKeyword)
    yield span(node, node.kind === S.TrueKeyword ? "false" : "true", "flipped");
  if (ts.isNumericLiteral(node)) yield span(node, String(Number(node.text.replaceAll("_", "")) + 1), "one more");
  if (ts.isExpressionStatement(node) && ts.isCallExpression(node.expression)) yield span(node, ";", "call left out");
  if (ts.isContinueStatement(node)) yield span(node, ";", "continue left out");
  if (ts.isCallExpression(node) && ts.isPropertyAccessExpression(node.expression)) {
    const { name, expression } = node.expression;
    const instead = CALLS.get(name.text);
    if (instead) yield span(name, instead, `${name.text} → ${instead}`);
    if (LEFT_OUT.has(name.text)) yield span(node, text(expression), `${name.text} left out`);
  }
}

/** Nothing in these is done when the program runs, or is only words. */
const passedOver = (node) =>
  ts.isTypeNode(node) ||
  ts.isInterfaceDeclaration(node) ||
  ts.isTypeAliasDeclaration(node) ||
  ts.isImportDeclaration(node) ||
  ts.isThrowStatement(node);

/** Every fault that fits a source. @param code the text of a TypeScript file */
export function faultsIn(code) {
  const source = ts.createSourceFile("x.ts", code, ts.ScriptTarget.Latest, true);
  const found = [];
  const visit = (node) => {
    if (passedOver(node)) return;
    found.push(...at(node, source));
    ts.forEachChild(node, visit);
  };
  visit(source);
  return found.map((fault) => ({ ...fault, line: source.getLineAndCharacterOfPosition(fault.from).line + 1 }));
}

export const withFault = (code, { from, to, instead }) => code.slice(0, from) + instead + code.slice(to);
