// What programs for the web find in packings: the argument maps a packing's name to its file; the answer maps it to the values found,
// in lower case. Anything that such a program refuses ends this one.
import { readFileSync } from 'node:fs';
import { pathToFileURL } from 'node:url';
import postcss from 'postcss';
import * as sass from 'sass';
import ts from 'typescript';
import { parse, defineConfig } from '@terrazzo/parser';

const files = JSON.parse(process.argv[2]);
const text = (name) => readFileSync(files[name], 'utf8');
const out = {};

const declared = (css) => {
  const found = [];
  postcss.parse(css).walkDecls((d) => found.push(d.value.toLowerCase()));
  return found;
};
out.css = declared(text('css'));
out['utility-css'] = declared(text('utility-css'));
if (!/@theme \{/.test(text('utility-css'))) throw new Error('no theme block');

// Each variable and the map of them all are used, so that the compiler has to resolve them.
const scss = text('scss');
const map = /^\$([\p{L}\p{N}-]+-colors): \(/mu.exec(scss)[1];
const graded = scss.includes('$core-gradients');
const gradient = graded ? ".g { background: map-get($core-gradients, 'dusk'); }" : '';
out.scss = declared(
  sass.compileString(`${scss}\n@each $name, $value in $${map} { .#{$name} { color: $value; } }\n${gradient}`, {
    silenceDeprecations: ['global-builtin'],
  }).css,
);

const program = ts.createProgram([files.ts], { strict: true, noEmit: true, target: ts.ScriptTarget.ES2022, types: [] });
const wrong = ts.getPreEmitDiagnostics(program);
if (wrong.length > 0)
  throw new Error(
    ts.formatDiagnostics(wrong, { getCanonicalFileName: (f) => f, getCurrentDirectory: () => '', getNewLine: () => '\n' }),
  );
const plain = ts.transpileModule(text('ts'), { compilerOptions: { target: ts.ScriptTarget.ES2022, module: ts.ModuleKind.ES2022 } });
const module = await import('data:text/javascript,' + encodeURIComponent(plain.outputText));
out.ts = Object.values(module.colors).map((v) => v.toLowerCase());
if (module.value(module.order[0]) !== module.colors[module.order[0]]) throw new Error('the first color is another');

const read = await parse([{ filename: pathToFileURL(files.tokens), src: text('tokens') }], {
  config: defineConfig({}, { cwd: pathToFileURL(process.cwd() + '/') }),
});
out.tokens = Object.values(read.tokens)
  .filter((t) => t.$type === 'color')
  .map((t) => {
    const { components } = t.$value;
    return (
      '#' +
      components
        .map((v) =>
          Math.round(v * 255)
            .toString(16)
            .padStart(2, '0'),
        )
        .join('')
    );
  });
if (graded && !Object.values(read.tokens).some((t) => t.$type === 'gradient')) throw new Error('no gradient');

// The older form has no reader that is still kept; its structure is what it is.
const older = (o) => Object.values(o).flatMap((v) => (typeof v.value === 'string' ? [v.value] : older(v)));
out['tokens-string'] = older(JSON.parse(text('tokens-string')));

process.stdout.write(JSON.stringify(out));
