<script lang="ts">
  import type { Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house, useLimits } from '../../lib/house.svelte';
  import type { Part } from '../../lib/subject.svelte';
  import { asPicture, exchanged, painted, roles, type Option, type Paint, type Role } from './option';

  // What the chosen option is made of: press a color to put it in the chosen place.
  let {
    option,
    texts,
    letter,
    role,
    library,
    colors,
    rules,
    typefaces,
    logo,
    notes,
    pick,
    change,
    full,
    first,
    last,
    moved,
    duplicate,
    remove,
    write,
    setLogo,
  }: {
    option: Option;
    texts: Schema['BoardTexts'];
    letter: string;
    role: Role;
    library: Schema['ColorRow'][];
    colors: Part[];
    rules: Schema['PairRule'][];
    typefaces: Schema['Typeface'][];
    logo: string;
    notes: string[];
    pick: (role: Role) => void;
    change: (to: Option, said: string) => void;
    full: boolean;
    first: boolean;
    last: boolean;
    moved: (by: number) => void;
    duplicate: () => void;
    remove: () => void;
    write: (texts: Schema['BoardTexts'], everywhere: boolean) => void;
    setLogo: (key: string) => void;
  } = $props();

  const places = $derived(roles(option));
  const place = $derived(places.find((p) => p.key === role) ?? places[0]!);
  const usable = $derived(library.filter((c) => c.status === 'approved'));
  // What the subject has beside the library, as candidates of the tray.
  const others = $derived(colors.filter((c) => !usable.some((o) => o.hex === c.hex)));
  const as = (c: { id?: number | undefined; name: string; hex: string }): Paint => ({
    ...(c.id ? { id: c.id } : {}),
    name: c.name,
    hex: c.hex,
  });
  const lay = (c: Part) => change(painted(option, place.key, as(c)), `${c.name} is the ${place.name} of ${letter}`);
  const outline = (on: boolean) => {
    const rest = { ...option };
    delete rest.outline;
    if (on) pick('outline');
    change(on ? { ...rest, outline: option.accents[0] ?? option.type } : rest, on ? 'With an outline' : 'Without an outline');
  };
  const accent = () => {
    const next = usable.find((c) => !places.some((p) => p.paint.hex === c.hex)) ?? usable[0];
    if (!next) return;
    pick(`accent${option.accents.length}`);
    change({ ...option, accents: [...option.accents, as(next)] }, 'An accent added');
  };
  const drop = () => {
    const at = Number(role.slice(6));
    pick('ground');
    change({ ...option, accents: option.accents.filter((_, i) => i !== at) }, 'The accent is gone');
  };
  // The colors that moved on in the library since, by number.
  const renewed = () => {
    const now = (p: Paint) => {
      const c = library.find((o) => o.id === p.id);
      const to = c?.status === 'retired' && c.successor ? library.find((o) => o.id === c.successor?.id) : c;
      return to ? as(to) : p;
    };
    const { outline: o, ...rest } = option;
    change(
      {
        ...rest,
        ground: now(option.ground),
        type: now(option.type),
        accents: option.accents.map(now),
        ...(o ? { outline: now(o) } : {}),
      },
      `${letter} has the library’s values again`,
    );
  };

  const limits = useLimits();
  let everywhere = $state(true);
  const fields = [
    { key: 'word', name: 'Word or letter' },
    { key: 'headline', name: 'Headline' },
    { key: 'lines', name: 'Lines of text' },
    { key: 'button', name: 'Button' },
    { key: 'small', name: 'Small print' },
  ] as const;

  const bringing = useChange(['typefaces']);
  const bringFont = (file: File) =>
    bringing.run(async () => {
      const list = await bringing.send<Schema['Typeface'][]>(`/houses/${house.id}/typefaces`, file, file.name);
      const own = list.filter((t) => t.id).sort((a, b) => b.id! - a.id!)[0]!;
      change({ ...option, typeface: own.key }, `${letter} is set in ${own.name}`);
    });
  const bringLogo = (file: File) =>
    bringing.run(async () => {
      const picture = await asPicture(file);
      const { logo: key } = await bringing.send<{ logo: string }>(`/houses/${house.id}/boards/logos`, picture, file.name);
      setLogo(key);
    });
  const chosenFile = (e: Event & { currentTarget: HTMLInputElement }, bring: (f: File) => unknown) => {
    const file = e.currentTarget.files?.[0];
    if (file) void bring(file);
    e.currentTarget.value = '';
  };
</script>

<aside class="min-h-0 overflow-y-auto bg-base-200 px-5 pb-5" aria-label={`Option ${letter}`}>
  <div class="flex items-baseline justify-between gap-3 pt-4">
    <h2 class="text-[1.27rem]">Option {letter}, {place.name}</h2>
    <span class="font-mono">{place.paint.hex}</span>
  </div>
  <p class="text-small">{place.paint.name}{place.paint.id ? '' : ', not in the library'}. Press a color to put it here.</p>
  {#snippet swatches(list: Part[], label: string)}
    <div class="mt-2 flex flex-wrap" role="group" aria-label={label}>
      {#each list as c (`${c.id} ${c.name} ${c.hex}`)}
        <button
          class="swatch"
          class:at={c.hex === place.paint.hex}
          style:background={c.hex}
          aria-label={c.name}
          title={`${c.name} ${c.hex}`}
          onclick={() => lay(c)}
        ></button>
      {/each}
    </div>
  {/snippet}
  {@render swatches(usable, 'Colors of the library')}
  {#if others.length > 0}{@render swatches(others, 'Other colors of the subject')}{/if}
  <p class="mt-3 flex flex-wrap gap-x-4 gap-y-1">
    <button class="link" title="Alt+X" onclick={() => change(exchanged(option), `Ground and type of ${letter} exchanged`)}
      >exchange ground and type</button
    >
    {#if option.accents.length < (limits.data?.boardAccents ?? 1)}<button class="link" onclick={accent}>one more accent</button
      >{/if}
    {#if role.startsWith('accent')}<button class="link" onclick={drop}>without this accent</button>{/if}
  </p>
  <p class="mt-1 flex flex-wrap gap-x-4 gap-y-1">
    <button class="link" disabled={full} title="Alt+U" onclick={duplicate}>duplicate</button>
    <button class="link" disabled={first} onclick={() => moved(-1)}>earlier</button>
    <button class="link" disabled={last} onclick={() => moved(1)}>later</button>
    <button class="link" onclick={remove}>remove {letter}</button>
  </p>
  {#each rules as r (`${r.color.id} ${r.ground.id}`)}<p class="mt-1 text-small">Rule: <b>{r.color.name} {r.says}.</b></p>{/each}
  {#if notes.length > 0}
    <p class="mt-2 border-l-4 border-current pl-3 text-small">
      {notes.join(' ')} <button class="link" onclick={renewed}>take the library’s values</button>
    </p>
  {/if}
  <div class="mt-3 grid grid-cols-2 gap-3">
    <label class="col-span-2 grid gap-1 text-small"
      >Typeface <select
        class="select w-full"
        value={option.typeface}
        onchange={(e) => change({ ...option, typeface: e.currentTarget.value }, `${letter} is set in another typeface`)}
        >{#each typefaces as t (t.key)}<option value={t.key}>{t.name}, {t.kind}</option>{/each}</select
      ></label
    >
    <label class="flex items-center gap-2"
      >Size <select
        class="select w-auto flex-1"
        value={option.size}
        onchange={(e) => change({ ...option, size: e.currentTarget.value as Option['size'] }, `${letter} has another size`)}
        >{#each ['small', 'medium', 'large'] as s (s)}<option>{s}</option>{/each}</select
      ></label
    >
    <label class="flex items-center gap-2"
      ><input type="checkbox" class="checkbox" checked={!!option.outline} onchange={(e) => outline(e.currentTarget.checked)} /> outline
      around the word</label
    >
    {#if logo}<label class="flex items-center gap-2"
        ><input
          type="checkbox"
          class="checkbox"
          checked={option.logo}
          onchange={(e) =>
            change({ ...option, logo: e.currentTarget.checked }, e.currentTarget.checked ? 'With the logo' : 'Without the logo')}
        /> logo</label
      >{/if}
  </div>
  <p class="mt-2 flex flex-wrap gap-x-4 text-small">
    {#if house.keeper}<label class="link cursor-pointer"
        >bring a typeface<input
          class="sr-only"
          type="file"
          accept=".woff2,.ttf,.otf"
          onchange={(e) => chosenFile(e, bringFont)}
        /></label
      >{/if}
    <label class="link cursor-pointer"
      >{logo ? 'another logo' : 'bring a logo'}<input
        class="sr-only"
        type="file"
        accept=".svg,.png"
        onchange={(e) => chosenFile(e, bringLogo)}
      /></label
    >
    {#if logo}<button class="link" onclick={() => setLogo('')}>no logo</button>{/if}
  </p>
  {#if bringing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{bringing.problem}</p>{/if}

  <div class="mt-4 flex items-baseline justify-between">
    <h2>Texts</h2>
    <label class="flex items-center gap-2 text-small"
      ><input type="checkbox" class="checkbox" bind:checked={everywhere} /> in every option</label
    >
  </div>
  {#each fields as f (f.key)}
    <label class="mt-2 grid gap-1 text-small"
      >{f.name}
      {#if f.key === 'lines'}<textarea
          class="textarea w-full"
          rows="3"
          maxlength={limits.data?.boardTexts[f.key]}
          value={texts[f.key]}
          onchange={(e) => write({ ...texts, [f.key]: e.currentTarget.value }, everywhere)}></textarea>
      {:else}<input
          class="input w-full"
          maxlength={limits.data?.boardTexts[f.key]}
          placeholder={f.key === 'word' ? `${letter}, the letter of the option` : ''}
          value={texts[f.key]}
          onchange={(e) => write({ ...texts, [f.key]: e.currentTarget.value }, everywhere)}
        />{/if}
    </label>
  {/each}
</aside>

<style>
  .swatch {
    width: 12.5%;
    height: 2.67rem;
    outline-offset: -3px;
  }
  .swatch.at {
    background-image: linear-gradient(#fff, #fff), linear-gradient(#111, #111);
    background-size:
      6px 6px,
      12px 12px;
    background-position: center;
    background-repeat: no-repeat;
  }
</style>
