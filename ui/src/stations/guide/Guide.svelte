<script lang="ts">
  import { fits } from '../../lib/fits';
  import { house } from '../../lib/house.svelte';
  import { route } from '../../lib/router';
  import { pictureOf, shows, tasks, type Task } from '../../guide/tasks';

  // The tasks of a coordinator's week: a list that is searched, a page each, and all of them on paper.
  let words = $state('');
  const task = $derived(tasks.find((t) => t.id === route.params.task));
  const found = $derived(tasks.filter((t) => fits(words, t.title, t.why, ...t.steps.map((s) => s.say))));
  const next = $derived(task ? tasks[tasks.indexOf(task) + 1] : undefined);
</script>

{#snippet page(t: Task)}
  <p class="mt-1 text-[1.13rem]">{t.why}</p>
  <ol class="mt-4 grid list-decimal gap-2 pl-6">
    {#each t.steps as s (s.say)}
      <li class="pl-1">
        {s.say}
        {#if s.at}<a class="link ml-2 print:hidden" href={house.path(shows(t, s))}>show me</a>{/if}
      </li>
    {/each}
  </ol>
  {#if pictureOf(t)}<img
      class="mt-5 w-full max-w-[60rem] outline outline-1 outline-current"
      src={pictureOf(t)}
      width="1280"
      height="800"
      alt={`${t.title}: how it looks in the demo house`}
    />{/if}
{/snippet}

<main class="min-h-0 overflow-y-auto px-8 pb-10 pt-5 phone:px-4 print:overflow-visible print:p-0">
  {#if task}
    <div class="print:hidden">
      <p><a class="link" href={house.path('guide')}>Guide</a></p>
      <h1 class="mt-1">{task.title}</h1>
      <div class="max-w-[60rem]">{@render page(task)}</div>
      {#if next}<p class="mt-5">Next: <a class="link" href={house.path(`guide/${next.id}`)}>{next.title}</a></p>{/if}
    </div>
  {:else}
    <div class="print:hidden">
      <div class="flex flex-wrap items-baseline gap-x-6 gap-y-2">
        <h1>Guide</h1>
        <input
          class="w-full max-w-[20rem] border-b border-current bg-transparent py-1"
          type="search"
          placeholder="what do you want to do?"
          aria-label="Find in the guide"
          bind:value={words}
        />
        <button class="link ml-auto" onclick={() => window.print()}>print as a handbook</button>
      </div>
      <p class="mt-2">The tasks of a week, as they are done in this program. “Show me” opens the place and marks what is meant.</p>
      <ol class="mt-3 max-w-[60rem]">
        {#each found as t (t.id)}
          <li class="rule border-b py-2">
            <a class="link font-bold" href={house.path(`guide/${t.id}`)}>{t.title}</a>
            <span class="block text-small">{t.why}</span>
          </li>
        {:else}<li>No task has that in it. “Find” at the top looks through the house and the places of the program.</li>{/each}
      </ol>
    </div>
  {/if}
  <div class="hidden print:block">
    <h1>Hue Keep, a handbook</h1>
    {#each task ? [task] : tasks as t (t.id)}
      <section class="mt-6 break-inside-avoid">
        <h2 class="text-[1.27rem]">{t.title}</h2>
        {@render page(t)}
      </section>
    {/each}
  </div>
</main>
