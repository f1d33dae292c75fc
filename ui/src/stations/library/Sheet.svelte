<script lang="ts">
  import RoleField from '../../lib/RoleField.svelte';
  import { opened } from '../../lib/focus';
  import { createQuery } from '@tanstack/svelte-query';
  import { colorBack, setsBack, way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import Distance from '../../lib/Distance.svelte';
  import { useChange } from '../../lib/change.svelte';
  import { house, useLimits } from '../../lib/house.svelte';
  import { screen } from '../../lib/screen.svelte';
  import { kept } from '../../lib/kept.svelte';
  import { untrack } from 'svelte';
  import { copy, notation } from '../../lib/state.svelte';
  import { backTo, navigate } from '../../lib/router';
  import { rem } from '../../lib/rem.svelte';
  import Spectrum from '../../lib/Spectrum.svelte';
  import Value from '../../lib/Value.svelte';
  import Old from '../audit/Old.svelte';
  import Follow from '../send/Follow.svelte';
  import Amend from './Amend.svelte';
  import { comparison } from '../../lib/comparison.svelte';
  import Family from './Family.svelte';
  import NearInks from './NearInks.svelte';
  import OtherNotation from './OtherNotation.svelte';
  import Papers from './Papers.svelte';
  import UsedIn from './UsedIn.svelte';
  import Term from '../../lib/Term.svelte';
  import History from './History.svelte';
  import Suggestions from './Suggestions.svelte';
  import Pairs from './Pairs.svelte';

  let { id, colors, groups }: { id: number; colors: Schema['ColorRow'][]; groups: string[] } = $props();

  const limits = useLimits();

  const at = () => ({ house: house.id, color: id });
  const sheet = createQuery(() => ({
    queryKey: ['sheet', house.id, id],
    queryFn: () => need(api.GET('/houses/{house}/colors/{color}', { params: { path: at() } })),
  }));
  const changing = useChange(['sheet', 'ledger', 'sets']);

  let plain = $state(''); // the hex that is being approved
  let editing = $state<'' | 'value' | 'hex' | 'about' | 'cmyk' | 'retire' | 'name' | 'merge'>('');
  const busy = $derived(changing.busy);
  let build = $state('');
  let about = $state({ name: '', role: '', group: '', rule: '', aliases: '', tags: '', ground: 0, ratio: 4.5 });
  let opening = $state(0);
  let successor = $state(0);
  let newName = $state('');
  let into = $state(0);

  const s = $derived(sheet.data);
  const c = $derived(s?.row);
  const shownPress = $derived((c?.press.press ?? '').replaceAll('-', ' '));
  const ownPaper = $derived(s?.papers?.[s.presses.findIndex((p) => p.press === s.row.press.press)]);
  // A keeper changes every color, a contributor the own proposal.
  const may = $derived(house.keeper || !!s?.own);
  const succeeds = $derived(s && c?.status === 'retired' && c.successor ? s.sets : []);

  const attempt = (said: string, f: () => Promise<Schema['ColorSheet']>, then?: () => void) =>
    changing.run(async () => {
      const was = s!;
      const now = await f();
      then?.();
      editing = '';
      return { said, undo: colorBack(was, now) };
    });

  const change = (done: string, body: Omit<Schema['ColorChange'], 'version'> & { version?: number }, then?: () => void) =>
    attempt(
      done,
      () => need(api.PATCH('/houses/{house}/colors/{color}', { params: { path: at() }, body: { version: s!.version, ...body } })),
      then,
    );

  const approveBuild = (value: string, press = c!.press.press) =>
    attempt(`CMYK ${value} approved for ${press}`, () =>
      need(
        api.PUT('/houses/{house}/colors/{color}/builds/{press}', {
          params: { path: { ...at(), press } },
          body: { version: s!.version, value },
        }),
      ),
    );
  const dropBuild = (press = c!.press.press) =>
    attempt('The build is derived again', () =>
      need(
        api.DELETE('/houses/{house}/colors/{color}/builds/{press}', {
          params: { path: { ...at(), press }, query: { version: s!.version } },
        }),
      ),
    );
  const approveHex = (value = c!.hex) =>
    attempt(`${value} approved for screens`, () =>
      need(api.PUT('/houses/{house}/colors/{color}/hex', { params: { path: at() }, body: { version: s!.version, value } })),
    );
  const dropHex = () =>
    attempt('The hex follows from the master again', () =>
      need(api.DELETE('/houses/{house}/colors/{color}/hex', { params: { path: at(), query: { version: s!.version } } })),
    );
  // Another value decides: it is amended to that, with everything that this means before it does.
  let begin = $state('');
  const letDecide = (value: string) => {
    begin = value;
    editing = 'value';
  };
  const master = $derived(c?.master);
  const kinds = { screen: 'Screen', reading: 'Reading', build: 'Build', ink: 'Ink' };
  const labels = { screen: 'screen value beyond sRGB', reading: 'reading, Lab', build: 'CMYK build', ink: 'spot ink' };
  const approveInk = (code: string, stock = c!.ink.stock) =>
    attempt(`${code} approved on ${stock} stock`, () =>
      need(
        api.PUT('/houses/{house}/colors/{color}/spots/{stock}', {
          params: { path: { ...at(), stock } },
          body: { version: s!.version, code },
        }),
      ),
    );
  const dropInk = (stock = c!.ink.stock) =>
    attempt('The ink is derived again', () =>
      need(
        api.DELETE('/houses/{house}/colors/{color}/spots/{stock}', {
          params: { path: { ...at(), stock }, query: { version: s!.version } },
        }),
      ),
    );
  const bringBack = (event: number) =>
    attempt('Brought back', () =>
      need(api.POST('/houses/{house}/colors/{color}/back', { params: { path: at() }, body: { version: s!.version, event } })),
    );

  // For a color that was admitted by mistake; the server refuses one that somebody holds, and says who.
  const removing = useChange(['sheet', 'ledger', 'sets']);
  const remove = () =>
    removing.run(async () => {
      const [name, path] = [c!.name, at()];
      await need(api.DELETE('/houses/{house}/colors/{color}', { params: { path, query: { version: s!.version } } }));
      void navigate('/h/:house/library', { params: { house: String(path.house) }, replace: true });
      return {
        said: `${name} removed`,
        undo: [way('post', '/houses/{house}/colors/{color}/unremove', { params: { path } })],
        back: `${name} is back`,
      };
    });

  const merge = () =>
    removing.run(async () => {
      const [name, path, target] = [c!.name, at(), colors.find((o) => o.id === into)!];
      const merged = await need(
        api.POST('/houses/{house}/colors/{color}/merge', { params: { path }, body: { version: s!.version, into: target.id } }),
      );
      void navigate('/h/:house/library/:color', {
        params: { house: String(path.house), color: String(target.id) },
        replace: true,
      });
      const back = { house: path.house, way: merged.back! };
      return {
        said: `${name} is ${target.name} now; its name stays as an alias`,
        undo: [way('post', '/houses/{house}/ways-back/{way}', { params: { path: back } })],
        back: `${name} and ${target.name} are two colors again`,
      };
    });
  const succeed = () =>
    changing.run(async () => {
      const [said, path] = [`${c?.successor?.name} took its place in ${succeeds.join(', ')}`, at()];
      const before = await need(api.GET('/houses/{house}/sets', { params: { path } }));
      await need(api.POST('/houses/{house}/colors/{color}/succeed', { params: { path }, body: { version: s!.version } }));
      return { said, undo: await setsBack(before) };
    });

  const words = (text: string) =>
    text
      .split(',')
      .map((w) => w.trim())
      .filter(Boolean);
  // The version is that which the form was opened on: what somebody else changed meanwhile is said before it is written over.
  const keepAbout = async () => {
    const { aliases, tags, ground, ratio, ...rest } = about;
    const version = opening;
    const body = { ...rest, version, aliases: words(aliases), tags: words(tags), ground, ratio: ground ? ratio : undefined };
    if (!(await change('Changed', body, () => typed.clear()))) opening = s?.version ?? opening;
  };

  // A style sheet for people wants all four kinds of value together, and the papers; pasted back, the lines are one color again.
  const allKinds = () =>
    c &&
    s &&
    copy(
      [
        c.name,
        notation.write('hex', c.rgb),
        `RGB ${notation.write('rgb', c.rgb)}`,
        `CMYK ${notation.write('cmyk', c.press.value)} (${c.press.press})`,
        ...s.presses.filter((p) => p.press !== c.press.press).map((p) => `CMYK ${notation.write('cmyk', p.value)} (${p.press})`),
        `Spot ${c.ink.code}`,
        ...s.spots.filter((i) => i.stock !== c.ink.stock).map((i) => `Spot on ${i.stock} ${i.code}`),
      ].join('\n'),
      `All four kinds of ${c.name}`,
    );
  const faces = () =>
    c &&
    comparison.add([
      { label: c.name, hex: c.hex },
      { label: `${c.name}, press`, hex: c.press.hex },
      { label: `${c.name}, ink ${c.ink.code}`, hex: c.ink.hex },
    ]);

  // What was typed stays until it is used or thrown away, whatever one looks at meanwhile.
  const typed = kept<{ about: typeof about; version: number } | null>(`about-${house.id}-${untrack(() => id)}`, null);
  $effect(() => {
    const now = $state.snapshot(about);
    if (editing === 'about') typed.now = { about: now, version: opening };
  });
  const restore = (to: { about: typeof about; version: number }) => {
    editing = 'about';
    about = to.about;
    opening = to.version;
  };
  if (typed.now) restore(typed.now);
  function leaveAbout() {
    editing = '';
    typed.clear();
  }

  function edit(what: typeof editing) {
    if (editing === 'about') typed.clear();
    editing = editing === what ? '' : what;
    changing.problem = '';
    begin = '';
    if (!c) return;
    plain = c.hex;
    if (what === 'about' && typed.now) {
      restore(typed.now);
      return;
    }
    opening = s?.version ?? 0;
    about = {
      name: c.name,
      role: c.role,
      group: c.group,
      rule: c.rule,
      aliases: c.aliases.join(', '),
      tags: c.tags.join(', '),
      ground: s?.ground?.color.id ?? 0,
      ratio: s?.ground?.want ?? 4.5,
    };
    build = c.press.text;
    successor = c.successor?.id ?? 0;
    newName = c.name;
    into = colors.find((o) => o.id !== id && o.hex === c.hex)?.id ?? 0;
  }

  const day = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium' });
  const acts = {
    get busy() {
      return busy;
    },
    approveBuild,
    dropBuild,
    approveInk,
    dropInk,
    letDecide,
  };
</script>

<!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
<aside
  class="min-h-0 overflow-y-auto bg-base-200 print:hidden"
  aria-label="Sheet"
  onkeydown={(e) => {
    if (e.key !== 'Escape' || e.defaultPrevented || !editing) return;
    e.preventDefault();
    editing = '';
  }}
>
  {#if rem.phone}<a class="flex min-h-[2.93rem] items-center px-5 font-bold" href={house.path('library')} onclick={backTo}
      >‹ Library</a
    >{/if}
  {#if sheet.isError}
    <p class="p-5" role="alert">{sheet.error.message}</p>
  {:else if s && c}
    <div class="grid grid-cols-2 gap-x-4 px-5 pb-2 pt-4 text-small">
      <b>Screen</b>
      <span><b class="break-words">Press, {shownPress}</b> <Distance value={c.press.deltaE} word={c.press.word} /></span>
    </div>
    <div class="grid h-[11.47rem] grid-cols-2" role="img" aria-label={`Screen ${c.hex} beside press and ink`}>
      <span class="relative" style:background={screen.face(c)}
        >{#if c.master?.css && screen.wide}<span
            class="absolute bottom-0 right-0 size-10"
            style:background={c.hex}
            style:clip-path="polygon(100% 0, 100% 100%, 0 100%)"
          ></span>{/if}</span
      >
      <span class="grid grid-rows-2"><span style:background={c.press.hex}></span><span style:background={c.ink.hex}></span></span>
    </div>
    <div class="grid grid-cols-2 gap-x-4 px-5 pt-2 text-small">
      <span>{c.press.direction ? `print is ${c.press.direction}` : ''}</span>
      <span><b>Ink {c.ink.code}</b> <Distance value={c.ink.deltaE} word={c.ink.word} /></span>
    </div>

    <div class="px-5 pb-8 pt-3">
      <div class="flex items-baseline justify-between gap-3">
        {#if editing === 'name'}
          <form
            class="flex flex-1 gap-2"
            onsubmit={(e) => {
              e.preventDefault();
              void change(`Renamed to ${newName}`, { name: newName });
            }}
          >
            <input
              class="input flex-1 font-bold"
              aria-label={`New name of ${c.name}`}
              required
              maxlength={limits.data?.nameRunes}
              {@attach opened}
              bind:value={newName}
            />
            <button class="btn btn-primary" disabled={busy}>Rename</button>
          </form>
        {:else}
          <h2 class="min-w-0 text-[1.53rem] leading-7">
            {c.name}
            {#if may}<button class="ml-1 text-small font-normal link" aria-label={`Rename ${c.name}`} onclick={() => edit('name')}
                >rename</button
              >{/if}
          </h2>
        {/if}
        <span class="text-right">{[c.role, c.group].filter(Boolean).join(', ')}</span>
      </div>
      {#if c.aliases.length || c.tags.length}<p class="text-small">
          {c.aliases.length ? `Also called ${c.aliases.join(', ')}. ` : ''}{c.tags.length ? `Tagged ${c.tags.join(', ')}.` : ''}
        </p>{/if}
      {#if s.ground}<p class="text-small">
          On {s.ground.color.name} it must reach {s.ground.want.toFixed(1)}:1 and has
          <b class="font-mono">{s.ground.ratio.toFixed(2)}</b>{s.ground.passes ? '' : ': it fails'}.
        </p>{/if}
      <p class="mt-1 flex gap-4 text-small">
        <button class="link" onclick={allKinds}>copy all four kinds</button><a
          class="link"
          href={house.path('library/view/compare')}
          onclick={faces}>compare its faces</a
        >
      </p>
      {#if c.status !== 'approved'}
        <p class="mt-1 flex items-center gap-3">
          <span class="badge font-bold">{c.status === 'draft' ? 'proposed' : 'retired'}</span>
          {#if c.successor}<span
              >use <a class="link" href={house.path(`library/${c.successor.id}`)}>{c.successor.name}</a> instead</span
            >{/if}
          {#if house.keeper}<button
              class="link"
              disabled={busy}
              onclick={() => change(`${c.name} approved`, { status: 'approved' })}
              >{c.status === 'draft' ? 'approve' : 'bring back'}</button
            >{/if}
        </p>
        {#if succeeds.length > 0 && c.successor}
          <p class="mt-1 text-small">
            It is still in {succeeds.join(', ')}.
            {#if house.keeper}<button class="link" disabled={busy} onclick={succeed}>put {c.successor.name} in its place</button
              >{/if}
          </p>
        {/if}
      {/if}
      <Suggestions color={c} />
      {#if changing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{changing.problem}</p>{/if}
      <Follow colors={[id]} single={{ hex: c.hex, holders: s.holders }} />
      {#if c.status !== 'draft' && (c.status !== 'retired' || c.successor)}
        <Old color={id} name={c.name} becomes={c.status === 'retired' ? (c.successor?.name ?? '') : c.name} />
      {/if}

      <dl class="values mt-2">
        {#snippet amending()}
          {#if may}<button class="link" aria-expanded={editing === 'value'} onclick={() => edit('value')}>amend</button>{/if}
          <span class="badge"><Term of="master">master</Term></span>
        {/snippet}
        <dt>{master ? kinds[master.kind] : 'Hex'}</dt>
        <dd>
          {#if master}<span class="font-mono text-[0.87rem]"
              ><Value text={master.text} label={`${labels[master.kind]}, which decides`} /></span
            >{:else}<Value kind="hex" parts={c.rgb} large label="hex" />{/if}
        </dd>
        <dd class="end">{@render amending()}</dd>
        {#if master}
          {#if master.press || master.stock}<dd class="wide text-small">
              on {master.press ?? master.stock}{master.book ? `, of the ${master.book} book` : ''}; Lab
              <Value text={master.lab ?? ''} label="Lab" />
            </dd>{/if}
        {/if}
        {#if master?.spectrum}<dd class="wide"><Spectrum of={master.spectrum} /></dd>{/if}
        {#if editing === 'value'}<dd class="wide">
            {#key begin}<Amend {id} was={s} {begin} done={() => edit('')} />{/key}
          </dd>{/if}
        {#if master}
          <dt>Hex</dt>
          <dd><Value kind="hex" parts={c.rgb} large label="hex" /></dd>
          <dd class="end"><span class="badge"><Term of={c.hexOrigin}>{c.hexOrigin}</Term></span></dd>
        {/if}
        {#if master && master.kind !== 'screen'}<dd class="wide text-small">
            <Distance value={master.deltaE} word={master.word} /> from the master{#if c.hexBy && c.hexOrigin === 'approved'}; by
              {c.hexBy}{c.hexAt ? `, ${day.format(new Date(c.hexAt))}` : ''}{/if}
          </dd>{/if}
        {#if master && may}<dd class="wide flex flex-wrap gap-x-4 text-small">
            {#if house.keeper && c.hexOrigin !== 'approved'}<button class="link" disabled={busy} onclick={() => approveHex()}
                >approve {c.hex}</button
              >{/if}
            {#if house.keeper}<button class="link" aria-expanded={editing === 'hex'} onclick={() => edit('hex')}
                >approve another hex</button
              >{/if}
            {#if house.keeper && c.hexOrigin === 'approved'}<button
                class="link"
                disabled={busy}
                aria-label="Take back the hex"
                onclick={dropHex}>take back</button
              >{/if}
            <button class="link" aria-label={`let it decide: ${c.hex}`} onclick={() => letDecide(c.hex)}>let it decide</button>
          </dd>{/if}
        {#if editing === 'hex'}<dd class="wide">
            <form
              class="mt-1 flex gap-2"
              onsubmit={(e) => {
                e.preventDefault();
                void approveHex(plain);
              }}
            >
              <input class="input flex-1 font-mono" aria-label="Hex for screens" {@attach opened} bind:value={plain} />
              <button class="btn btn-primary" disabled={busy}>Approve</button>
            </form>
          </dd>{/if}
        {#if master?.css}<dd class="wide text-small">
            {screen.wide ? 'plain screens show' : 'this screen cannot show it; shown as'} <span class="font-mono">{c.hex}</span>,
            <Distance value={master.deltaE} word={master.word} /> from it
          </dd>{/if}

        <dt>RGB</dt>
        <dd><Value kind="rgb" parts={c.rgb} large label="RGB" /></dd>
        <dd class="end"></dd>
        <OtherNotation of={c.master?.css ?? c.hex} label={c.name} />
        {#if s.video}
          <dd class="wide text-small">
            <details>
              <summary class="cursor-pointer underline">for video</summary>
              <table class="mt-1 w-full text-left">
                <thead><tr><th>Y′CbCr</th><th>8 bit</th><th>10 bit</th></tr></thead>
                <tbody>
                  {#each ['BT.601', 'BT.709', 'BT.2020'] as system (system)}
                    {#each [false, true] as full (full)}
                      <tr class="rule border-t">
                        <td class="py-0.5">{system}<span class="block">{full ? 'full' : 'narrow'}</span></td>
                        {#each s.video.filter((v) => v.system === system && v.full === full) as v (v.bits)}
                          <td
                            ><Value
                              text={v.codes.join(' ')}
                              label={`${system}, ${v.bits} bit, ${full ? 'full' : 'narrow'} range`}
                            />
                            {#if !full}<span class="block">{v.problems.length ? v.problems.join(', ') : 'legal'}</span>{/if}</td
                          >
                        {/each}
                      </tr>
                    {/each}
                  {/each}
                </tbody>
              </table>
              <p class="mt-1">Legal by EBU R 103, in the narrow range.</p>
            </details>
          </dd>
        {/if}

        <dt>CMYK</dt>
        <dd><Value kind="cmyk" parts={c.press.value} large label="CMYK" /></dd>
        <dd class="end"><span class="badge"><Term of={c.press.origin}>{c.press.origin}</Term></span></dd>
        <dd class="wide text-small">
          {shownPress}, <Term of="totalInk">total ink</Term>
          {c.press.totalInk}{#if ownPaper !== undefined}; <Term of="paper">with the paper’s own color</Term>
            {ownPaper.toFixed(1)} away{/if};
          {#if c.press.origin === 'master'}
            it decides, by {c.press.by}
          {:else if c.press.origin !== 'derived'}
            {c.press.origin === 'given' ? 'came with it, from' : 'by'}
            {c.press.by}{c.press.at ? `, ${day.format(new Date(c.press.at))}` : ''}; the profile itself gives <Value
              text={s.derived.wholeText}
              label="derived CMYK"
            />
          {:else}
            {s.derived.roundingDE > 0.05
              ? `best in whole percents, ${s.derived.roundingDE.toFixed(1)} from the exact one:`
              : 'best in whole percents, as good as the exact one:'}
            <Value text={s.derived.exactText} label="exact CMYK" />
          {/if}
          {#if !c.press.inGamut}<br /><b><Term of="gamut">Out of gamut</Term>:</b> no build on this press comes within 2.0 of it.{/if}
          {#if c.press.moved !== undefined}<br /><b>The master has moved by {c.press.moved.toFixed(1)} since this was approved.</b
            >{/if}
          {#if house.keeper && c.press.origin !== 'master'}
            <span class="mt-1 flex flex-wrap gap-x-4">
              {#if c.press.origin === 'given'}<button class="link" disabled={busy} onclick={() => approveBuild(c.press.text)}
                  >approve {c.press.text}</button
                >{/if}
              {#if c.press.origin === 'derived'}<button
                  class="link"
                  disabled={busy}
                  onclick={() => approveBuild(s.derived.wholeText)}>approve {s.derived.wholeText}</button
                >{/if}
              {#if c.press.moved !== undefined}<button class="link" disabled={busy} onclick={() => approveBuild(c.press.text)}
                  >approve again</button
                >{/if}
              <button class="link" aria-expanded={editing === 'cmyk'} onclick={() => edit('cmyk')}>approve other numbers</button>
              {#if c.press.origin === 'approved'}<button class="link" disabled={busy} onclick={() => dropBuild()}>take back</button
                >{/if}
              <button
                class="link"
                aria-label={`let it decide: ${c.press.text}`}
                onclick={() => letDecide(`cmyk(${c.press.text}) on ${c.press.press}`)}>let it decide</button
              >
            </span>
            {#if editing === 'cmyk'}
              <form
                class="mt-2 flex gap-2"
                onsubmit={(e) => {
                  e.preventDefault();
                  void approveBuild(build);
                }}
              >
                <input class="input flex-1 font-mono" aria-label="CMYK build" {@attach opened} bind:value={build} />
                <button class="btn btn-primary" disabled={busy}>Approve</button>
              </form>
            {/if}
          {/if}
        </dd>

        <dt><Term of="spot">Spot</Term></dt>
        <dd><Value text={c.ink.code} large label="spot ink" /></dd>
        <dd class="end"><span class="badge"><Term of={c.ink.origin}>{c.ink.origin}</Term></span></dd>
        <dd class="wide text-small">
          {c.ink.name}, {c.ink.class}, {c.ink.stock}{c.ink.origin === 'derived'
            ? ''
            : `; ${c.ink.origin === 'given' ? 'from' : 'by'} ${c.ink.by}`}
          {#if c.ink.moved !== undefined}<br /><b>The master has moved by {c.ink.moved.toFixed(1)} since this was approved.</b>{/if}
          {#if c.ink.origin === 'approved' && house.keeper}<button class="ml-3 link" disabled={busy} onclick={() => dropInk()}
              >take back</button
            >{/if}
          {#if c.ink.origin === 'given' && house.keeper}<button
              class="ml-3 link"
              disabled={busy}
              onclick={() => approveInk(c.ink.code)}>approve</button
            >{/if}
          {#if c.ink.origin !== 'master' && may}<button
              class="ml-3 link"
              aria-label={`let it decide: ${c.ink.code}`}
              onclick={() => letDecide(`${c.ink.code} on ${c.ink.stock}`)}>let it decide</button
            >{/if}
        </dd>
      </dl>

      <h3>
        Rules for use {#if may}<button
            class="ml-2 font-normal link"
            aria-expanded={editing === 'about'}
            onclick={() => edit('about')}>change</button
          >{/if}
      </h3>
      {#if editing === 'about'}
        <form
          {@attach opened}
          class="grid gap-2"
          onsubmit={(e) => {
            e.preventDefault();
            void keepAbout();
          }}
        >
          <label class="grid gap-1 text-small"
            >Name <input class="input w-full" required maxlength={limits.data?.nameRunes} bind:value={about.name} /></label
          >
          <div class="grid grid-cols-2 gap-2">
            <label class="grid gap-1 text-small"
              >Group <input
                class="input w-full"
                list="sheet-groups"
                maxlength={limits.data?.nameRunes}
                bind:value={about.group}
              /></label
            >
            <datalist id="sheet-groups"
              >{#each groups as g (g)}<option value={g}></option>{/each}</datalist
            >
            <label class="grid gap-1 text-small">Role <RoleField label="Role" bind:value={about.role} /> </label>
          </div>
          <label class="grid gap-1 text-small"
            >Where to use it, and where not <textarea
              class="textarea w-full"
              rows="3"
              maxlength={limits.data?.ruleRunes}
              bind:value={about.rule}></textarea></label
          >
          <div class="grid grid-cols-2 gap-2">
            <label class="grid gap-1 text-small"
              >Also called <input class="input w-full" placeholder="parted by commas" bind:value={about.aliases} /></label
            >
            <label class="grid gap-1 text-small"
              >Tags <input class="input w-full" placeholder="parted by commas" bind:value={about.tags} /></label
            >
            <label class="grid gap-1 text-small"
              >Must stay legible on
              <select class="select w-full" bind:value={about.ground}
                ><option value={0}>nothing in particular</option
                >{#each colors.filter((o) => o.id !== id && o.status !== 'retired') as o (o.id)}<option value={o.id}
                    >{o.name}</option
                  >{/each}</select
              >
            </label>
            {#if about.ground}<label class="grid gap-1 text-small"
                >at a contrast of <input
                  class="input w-full"
                  type="number"
                  min="1"
                  max="21"
                  step="0.1"
                  bind:value={about.ratio}
                /></label
              >{/if}
          </div>
          <div class="flex gap-3">
            <button class="btn btn-primary" disabled={busy}>Keep changes</button><button
              type="button"
              class="btn btn-plain"
              onclick={leaveAbout}>Cancel</button
            >
          </div>
        </form>
      {:else}
        <p>{c.rule || 'None yet.'}</p>
      {/if}

      <Pairs of={c} />

      <Papers {s} {acts} />
      <Family {s} {colors} />
      <NearInks {s} {may} {acts} />

      <h3>Who holds it</h3>
      <p>{s.sets.length === 0 ? 'It is in no swatch set.' : `In ${s.sets.join(', ')}.`}</p>
      {#if s.holders.length > 0}
        <ul class="mt-1">
          {#each s.holders as h (`${h.set} ${h.edition} ${h.hex}`)}
            <li class="rule flex items-center gap-3 border-b py-1 text-small">
              <span class="grid h-6 w-12 grid-cols-2" aria-hidden="true"
                ><span style:background={c.hex}></span><span style:background={h.hex}></span></span
              >
              <span class="flex-1">{h.set}, edition {h.edition}{h.recipients.length ? `: ${h.recipients.join(', ')}` : ''}</span>
              <span class="font-mono">{h.hex === c.hex ? 'current' : h.hex}</span>
            </li>
          {/each}
        </ul>
      {/if}

      <UsedIn color={id} name={c.name} hex={c.hex} />

      <History {s} {changing} {bringBack} />

      {#if may}
        <p class="mt-5 flex flex-wrap gap-x-5">
          {#if house.keeper && c.status !== 'draft'}
            <button class="link" aria-expanded={editing === 'retire'} onclick={() => edit('retire')}>
              {c.status === 'retired' ? 'Replace it by another color' : 'Retire this color'}
            </button>
          {/if}
          {#if house.keeper}<button class="link" aria-expanded={editing === 'merge'} onclick={() => edit('merge')}
              >Merge it into another color</button
            >{/if}
          <button class="link" disabled={removing.busy} onclick={remove}
            >{house.keeper ? 'Remove it from the library' : 'Withdraw this proposal'}</button
          >
        </p>
        {#if editing === 'merge'}
          <form
            {@attach opened}
            class="mt-2 grid gap-2"
            onsubmit={(e) => {
              e.preventDefault();
              void merge();
            }}
          >
            <label class="grid gap-1 text-small"
              >Into
              <select class="select w-full" required bind:value={into}>
                <option value={0} disabled>choose a color</option>
                {#each colors.filter((o) => o.id !== id && o.status !== 'retired') as o (o.id)}<option value={o.id}
                    >{o.name}, {o.hex}</option
                  >{/each}
              </select>
            </label>
            <p class="text-small">
              Its name and aliases become aliases of that color; swatch sets and gradients follow; fixed editions stay. It can be
              taken back for a day.
            </p>
            <button class="btn btn-primary justify-self-start" disabled={removing.busy || !into}
              >Merge {c.name}{into ? ` into ${colors.find((o) => o.id === into)?.name}` : ''}</button
            >
          </form>
        {/if}
        {#if removing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{removing.problem}</p>{/if}
        {#if editing === 'retire'}
          <form
            {@attach opened}
            class="mt-2 flex flex-wrap items-end gap-3"
            onsubmit={(e) => {
              e.preventDefault();
              void (c.status === 'retired'
                ? change(`${c.name} has another successor`, { successor })
                : change(`${c.name} retired`, { status: 'retired', successor }));
            }}
          >
            <label class="grid flex-1 gap-1 text-small"
              >Replaced by
              <select class="select w-full" bind:value={successor}>
                <option value={0}>nothing</option>
                {#each colors.filter((o) => o.id !== id && o.status === 'approved') as o (o.id)}<option value={o.id}
                    >{o.name}</option
                  >{/each}
              </select>
            </label>
            <button class="btn btn-primary" disabled={busy}>{c.status === 'retired' ? 'Keep' : 'Retire'} {c.name}</button>
          </form>
        {/if}
      {/if}
    </div>
  {/if}
</aside>

<style>
  .values {
    display: grid;
    grid-template-columns: 4.13rem minmax(0, 1fr) auto;
  }
  .values > dt {
    padding-top: 0.6rem;
    font-size: 0.93rem;
  }
  .values > dd {
    padding-top: 0.4rem;
  }
  .values > .end {
    display: flex;
    align-items: center;
    justify-content: flex-end;
    gap: 0.67rem;
  }
  .values > .wide {
    grid-column: 2 / -1;
    padding: 2px 0 0.4rem;
  }
  .values > dt:not(:first-child)::before {
    content: '';
    position: absolute;
    right: 1.33rem;
    width: calc(100% - 2.67rem);
    margin-top: -0.6rem;
    border-top: 1px solid color-mix(in srgb, var(--color-base-content) 40%, transparent);
  }
  aside {
    position: relative;
  }
  /* Of its parts as well, which are components of their own. */
  aside :global(h3) {
    margin: 1.33rem 0 0.27rem;
    font-size: 0.93rem;
    font-weight: 700;
  }
</style>
