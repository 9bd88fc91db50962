/**
 * All words on the screen, in one list made from the code, to be read through by someone who edits: texts, labels, titles
 * and messages, by file. `npm run words`
 */
import { readdirSync, readFileSync } from 'node:fs';
import ts from 'typescript';

/** Attributes and properties whose text is seen or heard. */
const SPOKEN = /^(title|label|aria-label|aria-valuetext|placeholder|alt|name|text|doc|also|empty|detail|any)$/;

const files = readdirSync('src', { recursive: true })
  .map((file) => `src/${file}`)
  .filter((file) => /\.tsx?$/.test(file) && !/\.test\.|generated|testkit/.test(file));
for (const file of files.sort()) {
  const source = ts.createSourceFile(file, readFileSync(file, 'utf8'), ts.ScriptTarget.Latest, true);
  const words = new Set();
  const say = (text) => {
    const plain = text.replace(/\s+/g, ' ').trim();
    if (/[a-z]{2}/i.test(plain) && (/\s/.test(plain) || /^[A-Z]/.test(plain))) words.add(plain);
  };
  const textOf = (node) =>
    ts.isStringLiteralLike(node)
      ? node.text
      : ts.isTemplateExpression(node)
        ? node.head.text + node.templateSpans.map((span) => `…${span.literal.text}`).join('')
        : null;
  const visit = (node) => {
    if (ts.isJsxText(node)) say(node.text);
    const text = textOf(node);
    if (text !== null) {
      const { parent } = node;
      const named = (ts.isJsxAttribute(parent) || ts.isPropertyAssignment(parent)) && parent.name.getText();
      const called = ts.isCallExpression(parent) && /notice|Error|message/i.test(parent.expression.getText());
      const made = ts.isNewExpression(parent);
      const shown = ts.isJsxExpression(parent) && !ts.isJsxAttribute(parent.parent);
      // Any sentence counts, whatever it is handed to.
      if (
        (named && SPOKEN.test(named)) ||
        called ||
        made ||
        shown ||
        (/^[A-Z].* .*[.?!:…]?$/.test(text) && named !== 'className')
      )
        say(text);
    }
    ts.forEachChild(node, visit);
  };
  visit(source);
  if (words.size) console.log(`\n${file}\n${[...words].map((one) => `  ${one}`).join('\n')}`);
}
