<script lang="ts">
  import { api, need, sentence, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house, useTray } from '../../lib/house.svelte';
  import { draftKey } from './incoming.svelte';

  const tray = useTray();
  const changing = useChange(['tray']);

  // What was typed survives a reload, as the tray does.
  let text = $derived(localStorage.getItem(draftKey()) ?? '');
  let read = $state<Schema['ReadResult'] | null>(null);
  let problem = $state('');
  let left = $state<Schema['ReadLine'][]>([]);

  $effect(() => {
    if (text) localStorage.setItem(draftKey(), text);
    else localStorage.removeItem(draftKey());
  });

  // The preview follows the typing; an answer to an older text is dropped.
  $effect(() => {
    const asked = text;
    if (asked.trim() === '') {
      read = null;
      problem = '';
      return;
    }
    const timer = setTimeout(async () => {
      try {
        const r = await need(api.POST('/houses/{house}/read', { params: { path: { house: house.id } }, body: { text: asked } }));
        if (asked === text) [read, problem] = [r, ''];
      } catch (e) {
        if (asked === text) [read, problem] = [null, sentence(e)];
      }
    }, 120);
    return () => clearTimeout(timer);
  });

  const put = () =>
    changing.run(async () => {
      const sent = text;
      const done = await need(api.POST('/houses/{house}/tray', { params: { path: { house: house.id } }, body: { text: sent } }));
      left = done.problems;
      // The lines that were not understood stay, to be put right; the others are on the tray now.
      // What was typed behind it meanwhile stays.
      const since = text.startsWith(sent) ? text.slice(sent.length).replace(/^\n/, '') : text === sent ? '' : text;
      text = [...done.problems.map((p) => p.text), since].filter(Boolean).join('\n');
      const said = done.added === 1 ? '1 color is on the tray' : `${done.added} colors are on the tray`;
      return done.left.length === 0 ? said : `${said}; ${count(done.left.length, 'line')} without a value left out`;
    });

  // A line is put right where it stands in the table; the text above follows.
  function mend(l: Schema['ReadLine'], to: string) {
    const lines = text.split(/\r\n|\r|\n/);
    lines.splice(l.line - 1, l.text.split('\n').length, to);
    text = lines.join('\n');
  }
  // What several lines may be in the same way is said once for all of them.
  const alike = $derived.by(() => {
    const by: Record<string, number> = {};
    for (const l of read?.lines ?? []) for (const r of l.readings ?? []) by[r.as] = (by[r.as] ?? 0) + 1;
    return Object.entries(by).filter(([, n]) => n > 1);
  });
  function mendAll(as: string) {
    for (const l of [...(read?.lines ?? [])].reverse()) {
      const r = l.readings?.find((o) => o.as === as);
      if (r) mend(l, `${l.name ? `${l.name} ` : ''}${r.value}`);
    }
  }
  const words = $derived(read?.lines.filter((l) => l.words) ?? []);

  // A color anywhere on the screen, where the browser can pick one.
  const Picker = (window as { EyeDropper?: new () => { open: () => Promise<{ sRGBHex: string }> } }).EyeDropper;
  let picking = $state(false);
  async function pick() {
    if (!Picker || picking) return;
    picking = true;
    // It stays on until it is ended: by Escape, or by a browser that wants a press for each.
    for (let picked; (picked = await new Picker().open().catch(() => undefined));)
      text = `${text.trimEnd()}${text.trim() ? '\n' : ''}${picked.sRGBHex.toUpperCase()}`;
    picking = false;
  }

  function submit(e: KeyboardEvent) {
    if (e.key === 'Enter' && (e.ctrlKey || e.metaKey) && (read?.understood ?? 0) > 0) {
      e.preventDefault();
      void put();
    }
  }

  const example = 'Harbor Teal  #1D6F6A\nGull  214 220 222';
  const count = (n: number, what: string) => (n === 1 ? `1 ${what}` : `${n} ${what}s`);
</script>

<label class="font-bold" for="paste">Type or paste colors</label>
<p class="mb-2">
  As you were sent them, a mail or a table as it is: one a line with its name before or after it, or its values in the lines below
  its name. Hex, RGB, CSS, HSB, Lab, CMYK builds, ink codes.
</p>
<textarea
  id="paste"
  class="textarea w-full shrink-0 font-mono"
  rows="7"
  spellcheck="false"
  placeholder={example}
  bind:value={text}
  onkeydown={submit}
  disabled={!house.contributor}
  aria-describedby="understood"></textarea>
{#if !house.contributor}<p class="mt-2">
    A reader looks, copies and downloads; to gather, ask a keeper for the role of a contributor.
  </p>{/if}
<div class="mt-3 flex flex-wrap items-center gap-x-4 gap-y-2">
  <button class="btn btn-primary" disabled={changing.busy || !house.contributor || (read?.understood ?? 0) === 0} onclick={put}>
    Put {read && read.understood > 0 ? count(read.understood, 'color') : 'colors'} on the tray
  </button>
  {#if Picker}<button class="btn btn-plain" disabled={!house.contributor} onclick={pick}
      >{picking ? 'Picking; Escape ends it' : 'Pick from the screen'}</button
    >{/if}
  <span id="understood" aria-live="polite">
    {#if problem || changing.problem}{problem || changing.problem}
    {:else if read}{count(read.understood, 'color')} understood{read.problems > 0 ? `, ${count(read.problems, 'line')} not` : ''}
    {:else if text === ''}Nothing typed yet{/if}
  </span>
</div>

{#if read && alike.length > 0}
  <p class="mt-4 flex flex-wrap items-center gap-x-3">
    {#each alike as [as, n] (as)}<button class="link" disabled={!house.contributor} onclick={() => mendAll(as)}
        >all {n} lines {as}</button
      >{/each}
  </p>
{/if}
{#if read}
  <table class="mt-5 w-full border-collapse">
    <thead class="text-left text-small">
      <tr class="border-b border-current"
        ><th class="w-[5.07rem] py-1">Screen</th><th class="w-[34%] pl-3">Name</th><th class="w-[6.67rem]">Hex</th><th>To know</th
        ></tr
      >
    </thead>
    <tbody>
      {#each read.lines.filter((l) => !l.words).slice(0, 400) as l, i (i)}
        <tr class="rule border-b">
          {#if l.hex}
            <td class="h-11" style:background={l.hex}></td>
            <td class="pl-3 font-bold">{l.name || '(no name yet)'}</td>
            <td class="font-mono">{l.hex}</td>
            <td>{l.notes.join('; ')}</td>
          {:else}
            <td class="h-11 text-center font-mono text-small">line {l.line}</td>
            <td class="py-1 pl-3 pr-3" colspan="2"
              >{#if l.text.includes('\n')}<span class="font-mono whitespace-pre-line">{l.text}</span>{:else}<input
                  class="input w-full font-mono"
                  aria-label={`Line ${l.line}, to be put right`}
                  spellcheck="false"
                  value={l.text}
                  disabled={!house.contributor}
                  onchange={(e) => mend(l, e.currentTarget.value)}
                  onkeydown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
                />{/if}</td
            >
            <td class="py-1"
              >{#if l.readings}<b>which one?</b>
                {l.problem}<span class="mt-1 flex flex-wrap gap-2"
                  >{#each l.readings as r (r.as)}<button
                      class="flex items-center gap-2 border border-current pr-2"
                      disabled={!house.contributor}
                      onclick={() => mend(l, `${l.name ? `${l.name} ` : ''}${r.value}`)}
                      ><span class="h-8 w-10" style:background={r.hex}></span>{r.as}</button
                    >{/each}</span
                >{:else}<b>not understood:</b> {l.problem}{/if}</td
            >
          {/if}
        </tr>
      {/each}
    </tbody>
  </table>
  {#if read.lines.length > 400}<p class="mt-2">And {read.lines.length - 400} more lines.</p>{/if}
  {#if words.length > 0}<p class="mt-2 text-small">
      Without a value: {words
        .slice(0, 8)
        .map((l) => l.text)
        .join(' · ')}{words.length > 8 ? ` and ${words.length - 8} more` : ''}
    </p>{/if}
{:else if left.length === 0 && (tray.data?.length ?? 0) === 0}
  <div class="mt-10 max-w-[37.33rem]">
    <h2>How colors come in</h2>
    <ol class="mt-2 grid list-decimal gap-1 pl-5">
      <li>Paste what you were sent. Each line is read while you look at it.</li>
      <li>Put it on the tray. The tray stays with you, in every station, until you admit or remove what is on it.</li>
      <li>Admit. Names that are taken and colors that are there already are pointed out before.</li>
    </ol>
  </div>
{/if}
