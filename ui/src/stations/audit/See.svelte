<script lang="ts">
  import { inAddress } from '../../lib/address.svelte';
  import { followFocus } from '../../lib/focus';
  import { house } from '../../lib/house.svelte';
  import { keys } from '../../lib/keys.svelte';
  import { route } from '../../lib/router';
  import Virtual from '../../lib/Virtual.svelte';
  import {
    fine,
    count,
    office,
    pagesOf,
    percent,
    pictured,
    reportPath,
    useAudit,
    triedPlan,
    uses,
    looks,
    type Found,
    type Look,
  } from './audit.svelte';
  import { rowsOf, toldOf, useSeen } from './seen.svelte';
  import SeeLines from './SeeLines.svelte';
  import SeeFinding from './SeeFinding.svelte';
  import SeeLooks from './SeeLooks.svelte';
  import SeePage from './SeePage.svelte';

  // A judged file as one sees it, with what was found marked on it: a mark leads to its row, a row to its marks.
  const id = $derived(Number(route.params.audit));
  const audit = useAudit(() => id);
  let look = $state<Look>('before');
  let written = $state(false); // the text of a page of the web, instead of what it shows
  let large = $state(false); // as wide as there is room, instead of whole
  let tall = $state(0); // of the room for a page, in pixels
  let broad = $state(0);
  let natural = $state(1); // of a drawing: how wide it is for its height
  let key = $state(''); // of the chosen color
  let page = $state(0); // 0: the first on which the chosen color stands
  let repaint = $state(0); // whose file is looked at, of what was made
  inAddress(
    () => `${reportPath(id)}/see`,
    () => ({
      key,
      look: look === 'before' ? '' : look,
      page: page > 1 ? String(page) : '',
      repaint: repaint ? String(repaint) : '',
    }),
    (k, v) => {
      if (k === 'key') key = v;
      else if (k === 'page') page = Number(v) || 0;
      else if (k === 'repaint') repaint = Number(v) || 0;
      else look = looks.find((l) => l === v) ?? 'before';
    },
  );

  const all = $derived(audit.data?.colors ?? []);
  const wrong = (c: Found) => !fine(c.verdict);
  const findings = $derived(all.filter(wrong));
  const number = $derived(new Map(findings.map((c, i) => [c.key, i + 1])));
  const found = $derived(all.find((c) => c.key === key));

  const rows = $derived(rowsOf(all, audit.data?.causes ?? []));

  // The plan whose page led here; without one, planned is what is proposed.
  const plan = $derived(triedPlan(house.id, id).now.plan);
  $effect(() => {
    if ((look === 'planned' && !plan) || (look === 'made' && !repaint)) look = 'after';
  });
  const colors = $derived(new Map(all.map((c) => [c.key, c])));
  const looked = {
    get id() {
      return id;
    },
    get key() {
      return key;
    },
    get look() {
      return look;
    },
    get page() {
      return page;
    },
    get plan() {
      return plan;
    },
    get repaint() {
      return repaint;
    },
    get colors() {
      return colors;
    },
  };
  const seen = useSeen(looked);
  const shown = $derived(seen.shown);
  const boxes = $derived(seen.boxes);
  // Pages are called by their numbers; frames of an animation by theirs, of a video by their times.
  const kind = $derived(shown?.names && !/\.tiff?$/i.test(audit.data?.line.file ?? '') ? 'frame' : 'page');
  const leafs = $derived(
    shown?.names ??
      (audit.data?.line.kind === 'picture' && shown ? Array.from({ length: shown.pages }, (_, i) => String(i + 1)) : undefined),
  );
  const name = (n: number) => shown?.names?.[n - 1] ?? String(n);
  const leaf = (n: number) => (name(n).includes(':') ? `frame at ${name(n)}` : `${kind} ${name(n)}`);

  const shape = $derived(shown?.width && shown.height ? shown.width / shown.height : natural);
  const width = $derived.by(() => {
    const whole = Math.min(broad - 8, (tall - 8) * shape);
    return `${Math.max(120, large ? broad - 8 : shown?.width ? Math.min(shown.width, whole) : whole)}px`;
  });
  function loaded(e: Event) {
    const i = e.currentTarget as HTMLImageElement;
    natural = i.naturalHeight > 0 ? i.naturalWidth / i.naturalHeight : 1;
  }
  const here = $derived(new Set(boxes.map((b) => b.key)));
  const inWords = $derived(found ?? findings[0]);

  /** Where a color stands of which there is no mark to be seen. */
  function elsewhere(c: Found) {
    if (here.has(c.key)) return '';
    const on = pagesOf(c, leafs);
    if (look !== 'alone' && wrong(c) && shown?.form === 'pages' && !seen.busy && on.includes(shown.page))
      return `; on this ${kind}, without a mark`;
    return `; ${uses(c.count, audit.data?.line.kind)}${on.length > 0 ? `, ${leaf(on[0]!)}` : ''}`;
  }

  function choose(c: Found) {
    key = c.key;
    const on = pagesOf(c, leafs);
    if (shown?.form === 'pages' && on.length > 0 && !on.includes(shown.page)) page = look === 'alone' ? 0 : on[0]!;
    if (!wrong(c) && look !== 'alone') alone();
  }
  function alone() {
    look = 'alone';
    page = 0;
  }
  function back(to: Look) {
    if (look === 'alone' && shown?.page) page = shown.page;
    look = to;
  }

  let list = $state<{ show: (index: number) => void }>();
  function pick(k: string) {
    key = k;
    list?.show(rows.findIndex((r) => r.key === k));
  }
  function step(by: number) {
    const colors = rows.filter((r) => r.color);
    const at = colors.findIndex((r) => r.key === key);
    const next = colors[Math.max(0, Math.min(colors.length - 1, at + by))];
    if (!next?.color) return;
    choose(next.color);
    list?.show(rows.indexOf(next));
    followFocus();
  }
  const turn = (by: number) => {
    const to = (shown?.page ?? 1) + by;
    if (shown && to >= 1 && to <= shown.pages) page = to;
  };
  $effect(() =>
    keys.add([
      { key: 'ArrowDown', does: 'next found color', run: () => step(1) },
      { key: 'ArrowUp', does: 'found color before', run: () => step(-1) },
      { key: 'ArrowRight', does: 'next page', run: () => turn(1) },
      { key: 'ArrowLeft', does: 'page before', run: () => turn(-1) },
    ]),
  );

  const inLines = $derived(shown?.form === 'lines' || (written && shown?.form === 'drawing'));
</script>

<div class="work">
  <main class="flex min-h-0 flex-col pl-5 pt-4">
    {#if audit.isError}<p class="mt-4" role="alert">{audit.error.message}</p>{/if}
    {#if seen.problem}<p class="mt-4" role="alert">{seen.problem}</p>{/if}
    {#if audit.data}
      <div class="flex flex-wrap items-baseline gap-x-4 pr-5">
        <h1 class="truncate">{audit.data.line.path ?? audit.data.line.file}</h1>
        <span class="shrink-0"
          >{shown && shown.pages > 1 ? `${leaf(shown.page)}${shown.names ? '' : ` of ${shown.pages}`}, ` : ''}{percent(
            audit.data.line.score,
          )}{audit.data.line.score === undefined ? '' : ' on-brand'}</span
        >
        <a class="link ml-auto" href={reportPath(id)}>words instead</a>
      </div>
      {#if (shown?.form === 'pages' || shown?.form === 'drawing') && !inLines}
        <div class="mt-3 flex min-h-0 flex-1 gap-4 pb-4 pr-5 max-[40rem]:flex-col">
          <div
            class="min-h-0 min-w-0 flex-1 overflow-auto p-1"
            bind:clientWidth={broad}
            bind:clientHeight={tall}
            aria-busy={seen.busy}
          >
            <SeePage
              view={shown}
              held={seen.held}
              {boxes}
              {colors}
              {number}
              chosen={key}
              {width}
              {shape}
              waits={seen.waits}
              alt={`${kind === 'frame' ? 'Frame' : 'Page'} ${name(shown.page)} of ${audit.data.line.file}`}
              {loaded}
              {pick}
            />
          </div>
          <SeeLooks
            view={shown}
            {kind}
            {name}
            {look}
            offers={[
              'before',
              ...(pictured(audit.data.line.kind) ? (['after'] as const) : []),
              ...(plan ? (['planned'] as const) : []),
              ...(repaint ? (['made'] as const) : []),
              ...(found ? (['alone'] as const) : []),
            ]}
            turn={(to) => (page = to)}
            to={(l) => (l === 'alone' ? alone() : back(l))}
            text={() => (written = true)}
            bind:large
            told={seen.two ? toldOf(looked, shown, here) : ''}
            more={seen.more}
            from={look === 'planned' ? `${reportPath(id)}/plan` : look === 'made' ? house.path(`audit/repaint/${repaint}`) : ''}
          />
        </div>
      {:else if inLines}
        {#if shown?.why && !written}<p class="mt-2 pr-5">{shown.why}</p>{/if}
        <div class="mt-2 flex gap-1 pr-5 text-small">
          <button class="btn btn-sm" aria-pressed={look !== 'alone'} onclick={() => (look = 'before')}>all findings</button>
          {#if found}<button class="btn btn-sm" aria-pressed={look === 'alone'} onclick={alone}>this one alone</button>{/if}
          {#if written}<button class="btn btn-sm" onclick={() => (written = false)}>as a page</button>{/if}
        </div>
        <SeeLines audit={id} alone={look === 'alone' ? key : ''} {colors} chosen={key} {number} choose={pick} />
      {:else if shown}
        <p class="mt-4 pr-5">{shown.why}</p>
        <ul class="mt-3 min-h-0 flex-1 overflow-y-auto pr-5 text-small">
          {#each inWords?.places ?? [] as p, i (i)}<li class="rule border-b py-1.5">
              {p.where} <span class="font-mono">{p.value}</span>
            </li>{/each}
          {#if inWords && inWords.placeCount > inWords.places.length}<li class="py-1.5">
              {count(inWords.placeCount - inWords.places.length, 'more place')}: the report lists all.
            </li>{/if}
        </ul>
      {:else if seen.pending}<p class="mt-4" role="status">
          {office.includes(audit.data.line.kind)
            ? 'LibreOffice makes the pages, with what was found and without it: some seconds ...'
            : 'The page is made ...'}
        </p>{/if}
    {/if}
  </main>
  <aside class="flex min-h-0 flex-col bg-base-200 pl-5 pt-4" aria-label="What was found">
    {#if audit.data}
      <h1 class="text-[1.27rem]">{count(findings.length, 'finding')}</h1>
      <Virtual
        bind:this={list}
        items={rows}
        height={(r) => (r.head ? 2.6 : 4)}
        key={(r) => r.key}
        label="Found colors"
        role="group"
      >
        {#snippet row(r)}
          {@const c = r.color}
          {#if c}
            <SeeFinding {c} number={number.get(c.key)} chosen={c.key === key} elsewhere={elsewhere(c)} choose={() => choose(c)} />
          {:else}<h2 class="truncate pt-3 text-[0.93rem]" title={r.head}>{r.head}</h2>{/if}
        {/snippet}
      </Virtual>
      <div class="flex items-center gap-4 border-t border-current py-3 pr-5 text-small">
        {#if house.contributor && audit.data.line.run !== undefined}<a class="btn btn-plain" href={`${reportPath(id)}/plan`}
            >Repaint plan</a
          >{/if}
        <span>A mark leads to its row, a row to its marks.</span>
      </div>
    {/if}
  </aside>
</div>
