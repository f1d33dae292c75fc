<script lang="ts">
  import { createQuery } from '@tanstack/svelte-query';
  import { api, need, sentence, type Schema } from '../../lib/api/client';
  import Distance from '../../lib/Distance.svelte';
  import { house, useRefresh } from '../../lib/house.svelte';
  import { message } from '../../lib/state.svelte';
  import Value from '../../lib/Value.svelte';
  import Amend from './Amend.svelte';

  let { id, colors, groups }: { id: number; colors: Schema['ColorRow'][]; groups: string[] } = $props();

  const at = () => ({ house: house.id, color: id });
  const sheet = createQuery(() => ({
    queryKey: ['sheet', house.id, id],
    queryFn: () => need(api.GET('/houses/{house}/colors/{color}', { params: { path: at() } })),
  }));
  const refresh = useRefresh();

  let editing = $state<'' | 'value' | 'about' | 'cmyk' | 'retire'>('');
  let problem = $state('');
  let busy = $state(false);
  let build = $state('');
  let about = $state({ name: '', role: '', group: '', rule: '' });
  let successor = $state(0);

  const s = $derived(sheet.data);
  const c = $derived(s?.row);

  async function attempt(done: string, f: () => Promise<unknown>) {
    busy = true;
    problem = '';
    try {
      await f();
      editing = '';
      message.say(done);
    } catch (e) {
      problem = sentence(e);
    } finally {
      busy = false;
      await refresh('sheet', 'ledger', 'sets');
    }
  }

  const change = (done: string, body: Omit<Schema['ColorChange'], 'version'>) =>
    attempt(done, () => need(api.PATCH('/houses/{house}/colors/{color}', { params: { path: at() }, body: { version: s!.version, ...body } })));

  const approveBuild = (value: string) =>
    attempt(`CMYK ${value} approved`, () =>
      need(api.PUT('/houses/{house}/colors/{color}/builds/{press}', { params: { path: { ...at(), press: 'coated' } }, body: { version: s!.version, value } })),
    );
  const dropBuild = () =>
    attempt('The build is derived again', () => need(api.DELETE('/houses/{house}/colors/{color}/builds/{press}', { params: { path: { ...at(), press: 'coated' } } })));
  const approveInk = (code: string) =>
    attempt(`${code} approved`, () =>
      need(api.PUT('/houses/{house}/colors/{color}/spots/{stock}', { params: { path: { ...at(), stock: 'coated' } }, body: { version: s!.version, code } })),
    );
  const dropInk = () =>
    attempt('The ink is derived again', () => need(api.DELETE('/houses/{house}/colors/{color}/spots/{stock}', { params: { path: { ...at(), stock: 'coated' } } })));

  function edit(what: typeof editing) {
    editing = editing === what ? '' : what;
    problem = '';
    if (!c) return;
    about = { name: c.name, role: c.role, group: c.group, rule: c.rule };
    build = c.press.text;
    successor = 0;
  }

  const day = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium' });
  const moment = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium', timeStyle: 'short' });
  let otherInk = $state('');
</script>

<aside class="min-h-0 overflow-y-auto bg-base-200" aria-label="Sheet">
  {#if sheet.isError}
    <p class="p-5" role="alert">{sheet.error.message}</p>
  {:else if s && c}
    <div class="grid grid-cols-2 gap-x-4 px-5 pb-2 pt-4 text-small">
      <b>Screen</b>
      <span><b>Press, coated</b> <Distance value={c.press.deltaE} word={c.press.word} /></span>
    </div>
    <div class="grid h-[172px] grid-cols-2" role="img" aria-label={`Screen ${c.hex} beside press and ink`}>
      <span style:background={c.hex}></span>
      <span class="grid grid-rows-2"><span style:background={c.press.hex}></span><span style:background={c.ink.hex}></span></span>
    </div>
    <div class="grid grid-cols-2 gap-x-4 px-5 pt-2 text-small">
      <span>{c.press.direction ? `print is ${c.press.direction}` : ''}</span>
      <span><b>Ink {c.ink.code}</b> <Distance value={c.ink.deltaE} word={c.ink.word} /></span>
    </div>

    <div class="px-5 pb-8 pt-3">
      <div class="flex items-baseline justify-between gap-3">
        <h2 class="text-[23px] leading-7">{c.name}</h2>
        <span class="text-right">{[c.role, c.group].filter(Boolean).join(', ')}</span>
      </div>
      {#if c.status !== 'approved'}
        <p class="mt-1 flex items-center gap-3">
          <span class="chip font-bold">{c.status === 'draft' ? 'proposed' : 'retired'}</span>
          {#if c.successor}<span>use <a class="underline" href={house.path(`library/${c.successor.id}`)}>{c.successor.name}</a> instead</span>{/if}
          {#if house.keeper}<button class="underline" disabled={busy} onclick={() => change(`${c.name} approved`, { status: 'approved' })}>{c.status === 'draft' ? 'approve' : 'bring back'}</button>{/if}
        </p>
      {/if}
      {#if problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{problem}</p>{/if}

      <dl class="values mt-2">
        <dt>Hex</dt>
        <dd><Value kind="hex" parts={c.rgb} large label="hex" /></dd>
        <dd class="end">
          {#if house.keeper}<button class="underline" aria-expanded={editing === 'value'} onclick={() => edit('value')}>amend</button>{/if}
          <span class="chip">master</span>
        </dd>
        {#if editing === 'value'}<dd class="wide"><Amend {id} version={s.version} name={c.name} hex={c.hex} done={() => edit('')} /></dd>{/if}

        <dt>RGB</dt>
        <dd><Value kind="rgb" parts={c.rgb} large label="RGB" /></dd>
        <dd class="end"></dd>

        <dt>CMYK</dt>
        <dd><Value kind="cmyk" parts={c.press.value} large label="CMYK" /></dd>
        <dd class="end"><span class="chip">{c.press.origin}</span></dd>
        <dd class="wide text-small">
          coated, total ink {c.press.totalInk};
          {#if c.press.origin === 'approved'}
            by {c.press.by}{c.press.at ? `, ${day.format(new Date(c.press.at))}` : ''};
            the profile itself gives <Value text={s.derived.wholeText} label="derived CMYK" />
          {:else}
            exactly <Value text={s.derived.exactText} label="exact CMYK" />; rounding
            {s.derived.roundingDE > 0.05 ? `costs ${s.derived.roundingDE.toFixed(1)}` : 'costs nothing'}
          {/if}
          {#each s.derived.variants as v (v.black)}
            <br /><span title={`total ink ${v.totalInk}`}>same look, {v.black} black:</span> <Value text={v.text} label={`CMYK with ${v.black} black`} />
            {#if house.keeper}<button class="ml-2 underline" disabled={busy} aria-label={`Approve ${v.text}`} onclick={() => approveBuild(v.text)}>approve</button>{/if}
          {/each}
          {#if !c.press.inGamut}<br /><b>Out of gamut:</b> no build on this press comes within 2.0 of it.{/if}
          {#if c.press.moved !== undefined}<br /><b>The master has moved by {c.press.moved.toFixed(1)} since this was approved.</b>{/if}
          {#if house.keeper}
            <span class="mt-1 flex flex-wrap gap-x-4">
              {#if c.press.origin === 'derived'}<button class="underline" disabled={busy} onclick={() => approveBuild(s.derived.wholeText)}>approve {s.derived.wholeText}</button>{/if}
              {#if c.press.moved !== undefined}<button class="underline" disabled={busy} onclick={() => approveBuild(c.press.text)}>approve again</button>{/if}
              <button class="underline" aria-expanded={editing === 'cmyk'} onclick={() => edit('cmyk')}>approve other numbers</button>
              {#if c.press.origin === 'approved'}<button class="underline" disabled={busy} onclick={dropBuild}>take back</button>{/if}
            </span>
            {#if editing === 'cmyk'}
              <form class="mt-2 flex gap-2" onsubmit={(e) => { e.preventDefault(); void approveBuild(build); }}>
                <!-- svelte-ignore a11y_autofocus -->
                <input class="input flex-1 font-mono" aria-label="CMYK build" autofocus bind:value={build} />
                <button class="btn btn-primary" disabled={busy}>Approve</button>
              </form>
            {/if}
          {/if}
        </dd>

        <dt>Spot</dt>
        <dd><Value text={c.ink.code} large label="spot ink" /></dd>
        <dd class="end"><span class="chip">{c.ink.origin}</span></dd>
        <dd class="wide text-small">
          {c.ink.name}, coated{c.ink.origin === 'approved' ? `; by ${c.ink.by}` : ''}
          {#if c.ink.moved !== undefined}<br /><b>The master has moved by {c.ink.moved.toFixed(1)} since this was approved.</b>{/if}
          {#if c.ink.origin === 'approved' && house.keeper}<button class="ml-3 underline" disabled={busy} onclick={dropInk}>take back</button>{/if}
        </dd>
      </dl>

      <h3>Nearest inks, coated</h3>
      <ul>
        {#each s.inks as ink (ink.code)}
          <li class="rule flex items-center gap-3 border-b">
            <span class="grid h-9 w-[72px] grid-cols-2" aria-hidden="true"><span style:background={c.hex}></span><span style:background={ink.hex}></span></span>
            <Value text={ink.code} label="ink" />
            <span class="min-w-0 flex-1 truncate text-small">{ink.name}</span>
            <span class="text-small"><Distance value={ink.deltaE} word={ink.word} /></span>
            {#if house.keeper}
              {#if c.ink.origin === 'approved' && c.ink.code === ink.code}<span class="w-[58px] text-small">approved</span>
              {:else}<button class="w-[58px] text-left text-small underline" disabled={busy} aria-label={`Approve ${ink.code}`} onclick={() => approveInk(ink.code)}>approve</button>{/if}
            {/if}
          </li>
        {/each}
      </ul>
      {#if house.keeper}
        <form class="mt-2 flex gap-2" onsubmit={(e) => { e.preventDefault(); void approveInk(otherInk); }}>
          <input class="input flex-1 font-mono" placeholder="another code, as QN-0120" aria-label="Another ink code" required bind:value={otherInk} />
          <button class="btn btn-plain" disabled={busy}>Approve</button>
        </form>
      {/if}

      <h3>Rules for use {#if house.keeper}<button class="ml-2 font-normal underline" aria-expanded={editing === 'about'} onclick={() => edit('about')}>change</button>{/if}</h3>
      {#if editing === 'about'}
        <form class="grid gap-2" onsubmit={(e) => { e.preventDefault(); void change('Changed', about); }}>
          <label class="grid gap-1 text-small">Name <input class="input w-full" required maxlength="120" bind:value={about.name} /></label>
          <div class="grid grid-cols-2 gap-2">
            <label class="grid gap-1 text-small">Group <input class="input w-full" list="sheet-groups" maxlength="120" bind:value={about.group} /></label>
            <datalist id="sheet-groups">{#each groups as g (g)}<option value={g}></option>{/each}</datalist>
            <label class="grid gap-1 text-small">Role
              <select class="select w-full" bind:value={about.role}><option value="">none</option>{#each ['primary', 'secondary', 'accent', 'neutral'] as r (r)}<option>{r}</option>{/each}</select>
            </label>
          </div>
          <label class="grid gap-1 text-small">Where to use it, and where not <textarea class="textarea w-full" rows="3" maxlength="2000" bind:value={about.rule}></textarea></label>
          <div class="flex gap-3"><button class="btn btn-primary" disabled={busy}>Keep changes</button><button type="button" class="btn btn-plain" onclick={() => edit('')}>Leave</button></div>
        </form>
      {:else}
        <p>{c.rule || 'None yet.'}</p>
      {/if}

      <h3>Who holds it</h3>
      <p>{s.sets.length === 0 ? 'It is in no swatch set.' : `In ${s.sets.join(', ')}.`}</p>
      {#if s.holders.length > 0}
        <ul class="mt-1">
          {#each s.holders as h (`${h.set} ${h.edition}`)}
            <li class="rule flex items-center gap-3 border-b py-1 text-small">
              <span class="grid h-6 w-12 grid-cols-2" aria-hidden="true"><span style:background={c.hex}></span><span style:background={h.hex}></span></span>
              <span class="flex-1">{h.set}, edition {h.edition}{h.recipients.length ? `: ${h.recipients.join(', ')}` : ''}</span>
              <span class="font-mono">{h.hex === c.hex ? 'current' : h.hex}</span>
            </li>
          {/each}
        </ul>
      {/if}

      <h3>What happened so far</h3>
      <ul>
        {#each s.history as h, i (i)}
          <li class="rule border-b py-1.5 text-small">
            <span class="flex gap-3">
              {#if h.before && h.after}<span class="grid h-8 w-12 shrink-0 grid-cols-2" aria-hidden="true"><span style:background={h.before}></span><span style:background={h.after}></span></span>{/if}
              <span class="min-w-0 break-words">{h.by}: {h.what}<br />{moment.format(new Date(h.at))}</span>
            </span>
          </li>
        {/each}
      </ul>

      {#if house.keeper && c.status === 'approved'}
        <p class="mt-5"><button class="underline" aria-expanded={editing === 'retire'} onclick={() => edit('retire')}>Retire this color</button></p>
        {#if editing === 'retire'}
          <form class="mt-2 flex flex-wrap items-end gap-3" onsubmit={(e) => { e.preventDefault(); void change(`${c.name} retired`, { status: 'retired', successor }); }}>
            <label class="grid flex-1 gap-1 text-small">Replaced by
              <select class="select w-full" bind:value={successor}>
                <option value={0}>nothing</option>
                {#each colors.filter((o) => o.id !== id && o.status === 'approved') as o (o.id)}<option value={o.id}>{o.name}</option>{/each}
              </select>
            </label>
            <button class="btn btn-primary" disabled={busy}>Retire {c.name}</button>
          </form>
        {/if}
      {/if}
    </div>
  {/if}
</aside>

<style>
  .values {
    display: grid;
    grid-template-columns: 62px minmax(0, 1fr) auto;
  }
  .values > dt {
    padding-top: 9px;
    font-size: 14px;
  }
  .values > dd {
    padding-top: 6px;
  }
  .values > .end {
    display: flex;
    align-items: center;
    justify-content: flex-end;
    gap: 10px;
  }
  .values > .wide {
    grid-column: 2 / -1;
    padding: 2px 0 6px;
  }
  .values > dt:not(:first-child)::before {
    content: '';
    position: absolute;
    right: 20px;
    width: calc(100% - 40px);
    margin-top: -9px;
    border-top: 1px solid color-mix(in srgb, var(--color-base-content) 40%, transparent);
  }
  aside {
    position: relative;
  }
  h3 {
    margin: 20px 0 4px;
    font-size: 14px;
    font-weight: 700;
  }
</style>
