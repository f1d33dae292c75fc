<script lang="ts">
  import type { Schema } from '../../lib/api/client';
  import Bring from './Bring.svelte';
  import { incoming } from './incoming.svelte';

  let { choose }: { choose: () => void } = $props();

  // What is taken of each file, and under which name; by file and place.
  let left = $state<Record<string, boolean>>({});
  let names = $state<Record<string, string>>({});
  const key = (f: number, i: number) => `${f} ${i}`;

  const taken = $derived(
    incoming.files.flatMap((f, n) =>
      (f.found?.colors ?? []).flatMap((c, i): Schema['NewCandidate'][] =>
        left[key(n, i)]
          ? []
          : [
              {
                name: names[key(n, i)] ?? (c.generic ? undefined : c.name),
                value: c.master?.value ?? c.hex,
                cmyk: c.cmyk,
                spot: c.spot,
                screen: c.master?.press || c.master?.stock ? c.screen : undefined,
                lab: c.lab,
                origin: 'file',
                source: `${f.file}${c.name ? `, ${c.name}` : ''}`,
              },
            ],
      ),
    ),
  );
  const counted = (n: number) => (n === 1 ? '1 color' : `${n} colors`);
</script>

{#if incoming.files.length === 0 && incoming.busy === 0}
  <div class="max-w-[620px]">
    <h2>Files with colors in them</h2>
    <p class="mt-2">Drop one or several, anywhere in this station. What each holds is shown before anything is taken of it.</p>
    <dl class="mt-4 grid grid-cols-[170px_1fr] gap-x-4 gap-y-2">
      <dt class="font-bold">Libraries and tokens</dt>
      <dd>.json, .tokens</dd>
      <dt class="font-bold">Office</dt>
      <dd>themes in .pptx, .potx, .xlsx, .xltx, .docx, .dotx, .thmx; styles in .odp, .odt, .ods; palettes in .soc</dd>
      <dt class="font-bold">Print</dt>
      <dd>color exchange .cxf, characterization .txt, .it8, .ti3</dd>
      <dt class="font-bold">Web</dt>
      <dd>.css, .scss</dd>
      <dt class="font-bold">Tables and lists</dt>
      <dd>.csv, .tsv, .xlsx, .gpl</dd>
      <dt class="font-bold">Logos and sheets</dt>
      <dd>.svg and .pdf with their exact colors; pictures of palettes</dd>
    </dl>
    <button class="btn btn-primary mt-5" onclick={choose}>Open files</button>
  </div>
{/if}
{#if incoming.busy > 0}<p aria-live="polite">
    Reading {incoming.files.length + 1} of {incoming.files.length + incoming.busy} files…
  </p>{/if}
{#if taken.length > 0}<div class="pb-4"><Bring colors={taken} done={() => (incoming.files = [])} /></div>{/if}
{#each incoming.files as f, n (n)}
  <section class="mb-6">
    <h2>{f.file}</h2>
    {#if f.problem}<p role="alert" class="border-l-4 border-current pl-3">{f.problem}</p>{/if}
    {#if f.found}
      <p>
        {f.found.label}{f.found.name ? `, “${f.found.name}”` : ''}: {counted(f.found.colors.length)}{f.found.colors.some(
          (c) => c.generic,
        )
          ? '; names that say nothing are replaced by a description unless you type one'
          : ''}
      </p>
      {#each f.found.notes as note (note)}<p class="text-small">{note}</p>{/each}
      <table class="mt-2 w-full border-collapse">
        <thead class="text-left text-small"
          ><tr class="border-b border-current"
            ><th class="w-8"><span class="sr-only">Take</span></th><th class="w-[76px] py-1">Screen</th><th class="w-[34%] pl-3"
              >Name</th
            ><th class="w-[100px]">Hex</th><th>To know</th></tr
          ></thead
        >
        <tbody>
          {#each f.found.colors.slice(0, 500) as c, i (i)}
            <tr class="rule border-b">
              <td
                ><input
                  type="checkbox"
                  class="checkbox align-middle"
                  aria-label={`Take ${c.name || c.hex}`}
                  checked={!left[key(n, i)]}
                  onchange={(e) => (left[key(n, i)] = !e.currentTarget.checked)}
                /></td
              >
              <td class="h-11" style:background={c.hex}></td>
              <td class="pl-3 pr-2"
                ><input
                  class="input w-full"
                  aria-label={`Name of ${c.hex}`}
                  placeholder={c.generic ? (c.name ? `${c.name}: give it a name` : 'give it a name') : ''}
                  value={names[key(n, i)] ?? (c.generic ? '' : c.name)}
                  onchange={(e) => (names[key(n, i)] = e.currentTarget.value)}
                /></td
              >
              <td class="font-mono">{c.hex}</td>
              <td class="text-small"
                >{[
                  c.cmyk && `CMYK ${c.cmyk}`,
                  c.spot,
                  c.share !== undefined && `${(c.share * 100).toFixed(1)} % of the area`,
                  c.uses !== undefined && (c.uses === 1 ? '1 use' : `${c.uses} uses`),
                  ...c.notes,
                ]
                  .filter(Boolean)
                  .join('; ')}</td
              >
            </tr>
          {/each}
        </tbody>
      </table>
      {#if f.found.colors.length > 500}<p class="mt-2">And {f.found.colors.length - 500} more, which are taken too.</p>{/if}
    {/if}
  </section>
{/each}
