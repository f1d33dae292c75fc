<script lang="ts">
  import { opened } from '../../lib/focus';
  import { models, type Model } from './models';
  import { colorBack } from '../../lib/back';
  import { api, need, sentence, type Schema } from '../../lib/api/client';
  import { useBook } from '../../lib/book';
  import Distance from '../../lib/Distance.svelte';
  import { engine, newest, type Look } from '../../lib/engine';
  import { useChange } from '../../lib/change.svelte';
  import { house } from '../../lib/house.svelte';
  import InkClass from '../../lib/InkClass.svelte';
  import { kept } from '../../lib/kept.svelte';
  import { screen } from '../../lib/screen.svelte';
  import { createQuery } from '@tanstack/svelte-query';
  import { onMount, untrack } from 'svelte';
  import Consequences from './Consequences.svelte';
  import Looks from './Looks.svelte';
  import Sliders from './Sliders.svelte';

  // Amending a master value, typed or dragged: what it was and would be edge to edge with all values and faces as the core
  // in the browser sees them, and, from the server, who holds the old value, before it takes effect.
  let { id, was, begin = '', done }: { id: number; was: Schema['ColorSheet']; begin?: string; done: () => void } = $props();
  const [version, name, hex] = $derived([was.version, was.row.name, was.row.hex]);
  type Decided = { master?: Schema['ColorMaster']; hex?: string; after?: string };
  const decides = (c: Decided) =>
    c.master?.kind === 'build' ? `CMYK ${c.master.text}` : c.master ? c.master.text : (c.hex ?? c.after ?? '');
  const key = (c: Decided) =>
    JSON.stringify([c.master?.kind, c.master?.text ?? c.hex ?? c.after, c.master?.press, c.master?.stock, c.master?.lab]);
  // What it is compared with and begun from: the color as it is, and what one would type for it.
  const origin = $derived.by(() => {
    const m = was.row.master;
    const lab = m && m.kind !== 'screen' ? (m.lab ?? m.text) : '';
    return lab ? `lab(${lab})` : (m?.text ?? hex);
  });
  const typedOrigin = $derived(was.row.master?.value ?? origin);

  const changing = useChange(['sheet', 'ledger', 'sets', 'tray']);
  // What was typed stays until it is used or thrown away, whatever one looks at meanwhile.
  const draft = kept(`amend-${house.id}-${untrack(() => id)}`, { value: '' });
  untrack(() => begin && (draft.now.value = begin));
  const value = $derived(draft.now.value);
  let seen = $state<Schema['Amendment'] | null>(null);
  let look = $state<Look | null>(null);
  let problem = $state('');
  let measured = $state(false); // the Lab typed is a reading and stays beside the master
  const lab = $derived(/^\s*lab\(\s*([\d.]+)\s+(-?[\d.]+)\s+(-?[\d.]+)\s*\)\s*$/i.exec(value)?.slice(1, 4).join(' '));
  // A build and an ink may say what they are on.
  const split = (text: string) => /^(.*?)(?:\s+on\s+(\S+))?\s*$/i.exec(text)!;
  const question = (text: string) => {
    const [, value = '', on] = split(text);
    return !on ? { value } : on === 'coated' || on === 'uncoated' ? { value, press: on, stock: on } : { value, press: on };
  };
  const press = $derived(split(value)[2] ?? was.row.master?.press ?? 'coated');
  const stock = $derived(split(value)[2] ?? was.row.master?.stock ?? 'coated');
  const last = localStorage.getItem('amend-model') ?? '';
  const asKind = (kind: string | undefined): Model | undefined => (kind === 'build' ? 'cmyk' : kind === 'ink' ? 'ink' : undefined);
  const own = untrack(() =>
    begin ? asKind(begin.startsWith('cmyk(') ? 'build' : begin.startsWith('#') ? '' : 'ink') : asKind(was.row.master?.kind),
  );
  let model = $state<Model>(own ?? (last in models ? (last as Model) : 'lch'));
  let slide = $state<number[]>([0, 0, 0]);
  let nearest = $state<Look['inks']>([]); // to the color as it is
  let ofClass = $state<Schema['FoundInk'][]>(); // likewise, of a class that was chosen
  let edge = $state(0); // the chroma at which sRGB ends, for the lightness and hue that there are

  // A press of the house's own comes with its profile.
  const presses = createQuery(() => ({
    queryKey: ['presses', house.id],
    queryFn: () => need(api.GET('/houses/{house}/presses', { params: { path: { house: house.id } } })),
  }));
  const profile = (name: string | undefined) => {
    const own = presses.data?.find((p) => p.name === name && !p.shipped);
    return own && `/api/houses/${house.id}/presses/${own.name}?of=${own.digest}`;
  };
  // Inks are looked up in the house's own book; without an answer the one that ships stands in.
  const ready = useBook(house.id).catch(() => undefined);
  const show = newest(
    async (a: Parameters<typeof engine.ask<'look'>>[1]) => {
      await ready;
      const from = origin;
      return { from, look: await engine.ask('look', { ...a, from }, profile(a.press)), cmyk: a.cmyk, on: a.press };
    },
    ({ from, look: l, cmyk, on }) => {
      if (from !== origin) return; // somebody amended it meanwhile; it is asked again
      [look, edge] = [l, l.edge];
      if (dragged) draft.now.value = cmyk ? `cmyk(${cmyk.join(' ')})${on && on !== 'coated' ? ` on ${on}` : ''}` : l.exact || l.hex;
      else slide = inksOf(value) ?? models[model].of(l);
    },
    () => (look = null), // the server's answer says what is wrong with the value
  );
  let dragged = false;

  // Inks that were typed or dragged stay as they are.
  const inksOf = (text: string) => {
    const m =
      model === 'cmyk' &&
      /^\s*cmyk\(\s*([\d.]+)[\s,%]+([\d.]+)[\s,%]+([\d.]+)[\s,%]+([\d.]+)\s*%?\s*\)(?:\s+on\s+\S+)?\s*$/i.exec(text);
    return m ? m.slice(1, 5).map(Number) : undefined;
  };
  // Where a build, an ink or a reading decides, screens may keep the hex that they have.
  let keep = $state<boolean | null>(null);
  const printed = $derived(seen?.master?.kind === 'build' || seen?.master?.kind === 'ink');
  const keepable = $derived(seen !== null && (printed || (!!lab && measured)) && seen.after !== hex);
  const keeping = $derived(keepable && (keep ?? (seen?.deltaE ?? 0) < 5));

  // What somebody else makes of the color meanwhile is what all distances are from.
  $effect(() => {
    void origin;
    untrack(() => {
      look = null;
      if (value.trim()) show(dragged ? models[model].ask([...slide], { press, hex }) : question(value));
    });
  });

  // The sliders begin at the color as it is.
  $effect(() => {
    const [m, text] = [model, untrack(() => value.trim()) || typedOrigin];
    const q = question(text);
    void engine.ask('look', { ...q, from: origin }, profile('press' in q ? q.press : undefined)).then(
      (l) => ([slide, edge, nearest] = [inksOf(text) ?? models[m].of(l), l.edge, l.inks]),
      () => undefined, // the server's answer says what is wrong with the value
    );
  });
  onMount(() => {
    if (value.trim()) typed();
  });

  function drag() {
    dragged = true;
    show(models[model].ask([...slide], { press, hex }));
  }

  function typed() {
    dragged = false;
    if (value.trim()) show(question(value));
    else look = null;
  }

  $effect(() => {
    const [asked, was] = [value, hex];
    if (asked.trim() === '') {
      [seen, problem] = [null, ''];
      return;
    }
    const timer = setTimeout(async () => {
      try {
        const p = await need(
          api.POST('/houses/{house}/colors/{color}/preview', {
            params: { path: { house: house.id, color: id } },
            body: { value: asked },
          }),
        );
        if (asked === value && was === hex) [seen, problem] = [p, ''];
      } catch (e) {
        if (asked === value) [seen, look, problem] = [null, null, sentence(e)];
      }
    }, 120);
    return () => clearTimeout(timer);
  });

  // The value that the form was opened on: what somebody else makes of it meanwhile is said before it is written over.
  let base = $state(untrack(() => version));
  const amend = async () => {
    if (!(await change())) base = version;
  };
  const change = () =>
    changing.run(async () => {
      const path = { house: house.id, color: id };
      const before = was;
      const how = { version: base, keepHex: keeping || undefined };
      const body = lab && measured ? { ...how, lab } : { ...how, value, decides: true };
      const s = await need(api.PATCH('/houses/{house}/colors/{color}', { params: { path }, body }));
      draft.clear();
      done();
      const said = `${name} is ${decides(s.row)} now${keeping ? `; screens keep ${s.row.hex}` : ''}`;
      return { said, undo: colorBack(before, s) };
    });

  const changes = $derived(seen !== null && key(seen) !== key(was.row));
  const after = $derived(keeping ? hex : (look?.hex ?? seen?.after));
</script>

<!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
<form
  class="border border-current p-3"
  onkeydown={(e) => {
    if (e.key !== 'Escape') return;
    e.preventDefault(); // what was typed stays for the next time
    done();
  }}
  onsubmit={(e) => {
    e.preventDefault();
    if (seen?.before === hex && changes) void amend();
  }}
>
  <label class="grid gap-1 text-small"
    >New value, in any notation
    <input class="input w-full font-mono" {@attach opened} spellcheck="false" bind:value={draft.now.value} oninput={typed} />
  </label>
  {#if lab}<label class="mt-2 flex items-center gap-2 text-small"
      ><input type="checkbox" class="checkbox" bind:checked={measured} /> this Lab was measured; the reading decides</label
    >{/if}
  {#if seen && printed}<p class="mt-2 text-small">
      The {seen.master!.kind} decides from then on{seen.master!.press || seen.master!.stock
        ? `, on ${seen.master!.press ?? seen.master!.stock}`
        : ''}{seen.after === hex ? '' : `; screens show ${keeping ? hex : seen.after}`}.
    </p>{/if}
  {#if keepable}<label class="mt-1 flex items-center gap-2 text-small"
      ><input type="checkbox" class="checkbox" checked={keeping} onchange={(e) => (keep = e.currentTarget.checked)} />
      {house.keeper ? `screens keep ${hex}, approved` : `screens keep ${hex}`}</label
    >{/if}
  {#if problem || changing.problem}<p role="alert" class="mt-2">{problem || changing.problem}</p>{/if}
  <div class="mt-2 flex gap-3">
    <button class="btn btn-primary" disabled={changing.busy || !seen || seen.before !== hex || !changes}
      >{seen && changes ? `Amend to ${decides(seen)}` : 'Amend'}</button
    >
    <button
      type="button"
      class="btn btn-plain"
      onclick={() => {
        draft.clear();
        done();
      }}>Cancel</button
    >
  </div>
  <div class="mt-3 grid gap-1">
    <label class="flex items-center gap-2 text-small"
      >Move by
      <select
        class="select flex-1"
        value={model}
        onchange={(e) => {
          model = e.currentTarget.value as Model;
          localStorage.setItem('amend-model', model);
        }}
        >{#each Object.entries(models) as [key, m] (key)}<option value={key}>{m.name}</option>{/each}</select
      >
    </label>
    <Sliders {model} {edge} {drag} bind:at={slide} />
    {#if model === 'ink' && (look?.inks ?? nearest).length > 0}
      <p class="flex items-baseline gap-3 text-small">
        Nearest on {stock} stock; or type a code above. <InkClass near={was.row.name} {stock} bind:found={ofClass} />
      </p>
      <ul class="flex flex-wrap gap-2">
        {#each ofClass ?? look?.inks ?? nearest as k (k.code)}
          <li>
            <button
              type="button"
              class="flex items-center gap-2 border border-current pr-2 text-small"
              onclick={() => {
                draft.now.value = `${k.code} on ${stock}`;
                typed();
              }}><span class="h-7 w-7" style:background={k.hex}></span><span class="font-mono">{k.code}</span></button
            >
          </li>
        {/each}
      </ul>
    {/if}
    {#if model === 'lch' && edge > 0}<p class="text-small">Beyond the mark, plain screens and print are duller.</p>{/if}
  </div>
  {#if after}
    <div class="mt-3 grid h-16 grid-cols-2" role="img" aria-label={`before ${hex}, after ${after}`}>
      <span style:background={screen.face(was.row)}></span>
      {#if look}
        <span class="grid grid-cols-[2fr_1fr_1fr]"
          ><span style:background={keeping ? hex : (screen.wide && look.exact) || look.hex}></span><span
            style:background={look.press.hex}
          ></span><span style:background={look.inks[0]?.hex}></span></span
        >
      {:else}<span style:background={after}></span>{/if}
    </div>
    <p class="mt-1 grid grid-cols-2 text-small">
      <span>before {hex}</span>
      <span
        >after {after}{#if look}, press, ink{/if}<br /><Distance
          value={look?.deltaE ?? (seen?.before === hex ? seen.deltaE : 0)}
          word={look?.word ?? (seen?.before === hex ? seen.word : '')}
        /> from before</span
      >
    </p>
  {/if}
  {#if look}<Looks {look} {keeping} />{/if}
  {#if seen}<Consequences of={seen} {id} {name} {hex} />{/if}
</form>
