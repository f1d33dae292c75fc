// What programs for the web find in packings: the argument maps a packing's name to its file; the answer maps it to the values found,
// in lower case. Anything that such a program refuses ends this one.
import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { pathToFileURL } from 'node:url';
import postcss from 'postcss';
import * as sass from 'sass';
import ts from 'typescript';
import { build } from 'vite';
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

const check = (file, more = {}) => {
  const options = { strict: true, noEmit: true, target: ts.ScriptTarget.ES2022, types: [], ...more };
  const wrong = ts.getPreEmitDiagnostics(ts.createProgram([file], options));
  const host = { getCanonicalFileName: (f) => f, getCurrentDirectory: () => '', getNewLine: () => '\n' };
  if (wrong.length > 0) throw new Error(ts.formatDiagnostics(wrong, host));
};
check(files.ts);
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
    const { colorSpace, components, hex } = t.$value;
    if (colorSpace !== 'srgb') return hex; // what sRGB does not have is given for it, too
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

// The package, installed as a project installs it, checked, and bundled as it is.
if (files.npm) {
  const root = join(dirname(files.npm), 'project');
  mkdirSync(root);
  writeFileSync(join(root, 'package.json'), '{ "name": "project", "private": true, "type": "module" }');
  execFileSync('npm', ['install', '--offline', '--no-audit', '--no-fund', '--ignore-scripts', files.npm], {
    cwd: root,
    stdio: 'pipe',
  });
  const [name] = Object.keys(JSON.parse(readFileSync(join(root, 'package.json'), 'utf8')).dependencies);
  const use = `import { colors, gradients, order, value } from '${name}';
import '${name}/colors.css';
import tokens from '${name}/tokens.json';
export const first = value(order[0]!);
export { colors, gradients, tokens };
`;
  writeFileSync(join(root, 'use.ts'), use);
  check(join(root, 'use.ts'), {
    module: ts.ModuleKind.ESNext,
    moduleResolution: ts.ModuleResolutionKind.Bundler,
    resolveJsonModule: true,
    noUncheckedSideEffectImports: true,
  });
  await build({
    root,
    configFile: false,
    logLevel: 'silent',
    build: { lib: { entry: 'use.ts', formats: ['es'], fileName: 'use', cssFileName: 'use' } },
  });
  const used = await import(pathToFileURL(join(root, 'dist', 'use.js')));
  if (used.first !== used.colors[Object.keys(used.colors)[0]]) throw new Error('the first color of the package is another');
  if (Object.keys(used.tokens).length === 0) throw new Error('the package has no tokens');
  const styles = declared(readFileSync(join(root, 'dist', 'use.css'), 'utf8'));
  const compiled = sass.compileString(`@use 'pkg:${name}/colors.scss' as c; @each $n, $v in c.$${map} { .x { color: $v; } }`, {
    importers: [new sass.NodePackageImporter(root)],
  });
  if (declared(compiled.css).length === 0) throw new Error('the package has no variables');
  out.npm = Object.values(used.colors).map((v) => v.toLowerCase());
  if (styles.length === 0) throw new Error('the package has no custom properties');
}

process.stdout.write(JSON.stringify(out));
