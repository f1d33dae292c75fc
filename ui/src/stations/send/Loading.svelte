<script lang="ts">
  import { way } from '../../lib/back';
  import { api, need, upload, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { fits } from '../../lib/fits';
  import { opened } from '../../lib/focus';
  import { house, useLimits } from '../../lib/house.svelte';
  import ListFind from '../../lib/ListFind.svelte';
  import { rem } from '../../lib/rem.svelte';
  import { backTo, route } from '../../lib/router';
  import { useLoading, usePackings, useTroubles } from './packings';
  import { moment, of } from './send';
  import Ways from './Ways.svelte';

  // How files are loaded: in the words that ship, in the house's own, and what did not work for somebody.
  const loading = useLoading();
  const packings = usePackings();
  const troubles = useTroubles();
  const limits = useLimits();
  const changing = useChange(['loading', 'recipients']);
  let words = $state('');
  const label = (name: string) => packings.data?.find((p) => p.name === name)?.label ?? name;
  const labels = (n: Schema['LoadingNote']) => n.packings.map(label).join('; ');
  const called = (n: Schema['LoadingNote']) =>
    (packings.data ?? []).filter((p) => p.note === n.key).flatMap((p) => [p.extension, ...p.words]);
  const list = $derived((loading.data ?? []).filter((n) => fits(words, labels(n), n.for, n.own, ...called(n))));
  const one = $derived(
    loading.data?.find((n) => n.key === route.params.note) ?? (rem.phone ? undefined : (list.find((n) => n.own) ?? list[0])),
  );
  const waiting = $derived(troubles.data ?? []);
  const about = $derived(waiting.filter((t) => t.note === one?.key));
  const where = (key: string) => ({ params: { path: { house: house.id, note: key } } });

  let writing = $state('');
  let text = $state('');
  const write = (n: Schema['LoadingNote']) => {
    [writing, text] = [n.key, n.own || n.do.join('\n')];
  };
  const put = (n: Schema['LoadingNote'], own: string) =>
    changing.run(async () => {
      const before = n.own;
      const now = await need(
        api.PUT('/houses/{house}/loading/{note}', { ...where(n.key), body: { text: own, version: n.version || undefined } }),
      );
      writing = '';
      return {
        said: own ? `${labels(n)}: those who get it read this now` : `${labels(n)}: the words that ship stand there again`,
        undo: [
          way('put', '/houses/{house}/loading/{note}', {
            ...where(n.key),
            body: { text: before, version: now.version || undefined },
          }),
        ],
      };
    });
  const show = (n: Schema['LoadingNote'], file: File | undefined) =>
    file &&
    changing.run(async () => {
      await upload(`/houses/${house.id}/loading/${n.key}/picture`, file, file.name, { method: 'PUT' });
      return `The picture stands with ${labels(n)}`;
    });
  const hide = (n: Schema['LoadingNote']) =>
    changing.run(async () => {
      await need(api.DELETE('/houses/{house}/loading/{note}/picture', where(n.key)));
      return 'The picture is gone';
    });
  const settle = (t: Schema['Trouble']) =>
    changing.run(async () => {
      const path = { house: house.id, trouble: t.id };
      await need(api.PUT('/houses/{house}/troubles/{trouble}/settled', { params: { path } }));
      return {
        said: `Settled: ${label(t.packing)} for ${t.recipientName}`,
        undo: [way('delete', '/houses/{house}/troubles/{trouble}/settled', { params: { path } })],
      };
    });
</script>

{#snippet trouble(t: Schema['Trouble'])}
  <li class="rule border-b py-2">
    <b>{t.recipientName}</b>: {label(t.packing)} of {t.setName}, edition {t.edition}, did not work{t.times > 1
      ? `, said ${of(t.times, 'time')}`
      : ''}, {moment.format(new Date(t.at))}
    {#if t.tried}<span class="block border-l-4 border-current pl-3">{t.tried}</span>{/if}
    <span class="flex flex-wrap gap-x-4 text-small">
      {#if t.note && t.note !== one?.key}<a class="link" href={house.path(`send/loading/${t.note}`)}
          ><span class="sr-only">{t.recipientName}: </span>mend the note</a
        >{/if}
      <a class="link" href={house.path(`send/recipients/${t.recipient}`)}>what {t.recipientName} was sent</a>
      <button class="link" disabled={changing.busy} onclick={() => settle(t)}
        ><span class="sr-only">{t.recipientName}, {label(t.packing)}: </span>settled</button
      >
    </span>
  </li>
{/snippet}

<div class="work" data-at={route.params.note ? 'one' : 'list'}>
  <main class="whole flex min-h-0 flex-col overflow-y-auto p-5 pt-4 phone:px-4">
    {#if rem.phone}<h1 class="keep sr-only">Send</h1>{/if}
    <div class="flex flex-wrap items-baseline gap-x-6 gap-y-2">
      {#if !rem.phone}<h1>Send</h1>{/if}
      <Ways at="loading" />
    </div>
    {#if changing.problem}<p role="alert" class="mt-2 border-l-4 border-current pl-3">{changing.problem}</p>{/if}
    {#if waiting.length > 0}
      <section class="mt-4" aria-label="Did not work">
        <h2>{waiting.length === 1 ? '1 file did not work' : `${waiting.length} files did not work`}</h2>
        <ul>
          {#each waiting as t (t.id)}{@render trouble(t)}{/each}
        </ul>
      </section>
    {/if}
    <div class="mt-3"><ListFind bind:words of={loading.data?.length ?? 0} label="Find how something is loaded" /></div>
    <ul class="mt-2">
      {#each list as n (n.key)}
        <li class="rule seldom border-b">
          <a
            class="grid grid-cols-[2fr_2fr_1fr] items-start gap-4 py-2.5 pl-3 phone:grid-cols-1 phone:gap-1 phone:pl-0"
            class:bg-base-200={n.key === one?.key}
            href={house.path(`send/loading/${n.key}`)}
            aria-current={n.key === one?.key ? 'true' : undefined}
            data-replace={rem.phone ? undefined : ''}
            data-scroll-to-top="false"
          >
            <b>{labels(n)}</b>
            <span class="text-small">{n.for}</span>
            <span class="pr-3 text-right text-small phone:text-left"
              >{n.own || n.picture ? `in the house’s words${n.picture ? ', with a picture' : ''}` : ''}</span
            >
          </a>
        </li>
      {/each}
    </ul>
    {#if words && list.length === 0}<p class="mt-2">Nothing is called “{words}”.</p>{/if}
  </main>
  {#if one}
    {#key one.key}
      <aside class="min-h-0 overflow-y-auto bg-base-200 px-5 pb-8 pt-4" aria-label={`How it is loaded: ${labels(one)}`}>
        {#if rem.phone}<a class="flex min-h-[2.93rem] items-center font-bold" href={house.path('send/loading')} onclick={backTo}
            >‹ Loading</a
          >{/if}
        <h2 class="text-[1.4rem]">{labels(one)}</h2>
        <p class="text-small">{one.for}</p>
        {#if about.length > 0}
          <ul class="mt-3 border border-current px-3">
            {#each about as t (t.id)}{@render trouble(t)}{/each}
          </ul>
        {/if}
        {#if writing === one.key}
          <!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
          <form
            class="mt-3 grid gap-2"
            onkeydown={(e) => e.key === 'Escape' && (writing = '')}
            onsubmit={(e) => {
              e.preventDefault();
              void put(one, text);
            }}
          >
            <label for="own" class="font-bold">In the words of this house, a step a line</label>
            <textarea
              id="own"
              class="textarea w-full"
              rows="8"
              maxlength={limits.data?.ruleRunes}
              placeholder="which application, which folder, what stands there when it worked"
              {@attach opened}
              bind:value={text}></textarea>
            <p class="flex gap-3">
              <button class="btn btn-primary" disabled={changing.busy}>Say it so</button>
              <button type="button" class="btn btn-plain" onclick={() => (writing = '')}>Cancel</button>
            </p>
          </form>
        {:else}
          {#if one.own}
            <h3>The house says</h3>
            {#each one.own.split('\n') as line, i (i)}<p>{line}</p>{/each}
            <p class="text-small">{one.by}, {one.at ? moment.format(new Date(one.at)) : ''}</p>
          {/if}
          {#if one.picture}<img
              class="mt-2 w-full border border-current"
              src={`/api/houses/${house.id}/loading/${one.key}/picture?v=${one.version}`}
              alt={`Where it goes: ${labels(one)}`}
            />{/if}
          {#if house.keeper}
            <p class="mt-3 flex flex-wrap items-center gap-3">
              <button class="btn btn-primary" onclick={() => write(one)}
                >{one.own ? 'Change the words' : 'Say it for your applications'}</button
              >
              <label class="btn btn-plain"
                >{one.picture ? 'Another picture' : 'Add a picture'}<input
                  class="sr-only"
                  type="file"
                  accept="image/png,image/jpeg"
                  onchange={(e) => {
                    void show(one, e.currentTarget.files?.[0]);
                    e.currentTarget.value = '';
                  }}
                /></label
              >
              {#if one.picture}<button class="link" disabled={changing.busy} onclick={() => hide(one)}>take the picture away</button
                >{/if}
              {#if one.own}<button class="link" disabled={changing.busy} onclick={() => put(one, '')}>take the words back</button
                >{/if}
            </p>
            <p class="mt-1 text-small">
              It stands at every pickup, in mails, and from the next edition on in kits and on key-in cards.
            </p>
          {/if}
        {/if}
        <h3>{one.own ? 'What stands below it' : 'What stands there'}</h3>
        <ol class="list-decimal pl-5">
          {#each one.do as step (step)}<li>{step}</li>{/each}
        </ol>
        {#each one.folders as f (f)}<p class="mt-1 text-small">{f}</p>{/each}
        <h3>When it worked</h3>
        <p>{one.worked}</p>
        <h3>When not</h3>
        {#each one.otherwise as e (e)}<p>{e}</p>{/each}
      </aside>
    {/key}
  {:else}<aside class="bg-base-200 p-5"><p>How a file is loaded shows here.</p></aside>{/if}
</div>

<style>
  h3 {
    margin: 1.33rem 0 2px;
    font-size: 0.93rem;
    font-weight: 700;
  }
</style>
