<script lang="ts">
  import { fits } from '../../lib/fits';
  import ListFind from '../../lib/ListFind.svelte';
  import { createQuery } from '@tanstack/svelte-query';
  import { way } from '../../lib/back';
  import { api, need, type Schema } from '../../lib/api/client';
  import { useChange } from '../../lib/change.svelte';
  import { house, mayAs, roles, type Role } from '../../lib/house.svelte';
  import { kept } from '../../lib/kept.svelte';
  import { navigate } from '../../lib/router';
  import { copy, session } from '../../lib/state.svelte';
  import Views from './Views.svelte';

  // Who belongs to the house and what they may do, and the invitations that wait.
  const here = () => ({ house: house.id });
  const people = createQuery(() => ({
    queryKey: ['house', house.id, 'people'],
    queryFn: () => need(api.GET('/houses/{house}/people', { params: { path: here() } })),
  }));
  const changing = useChange(['house']);
  const inviting = useChange(['house']);
  // Nobody gives more than they have.
  const given = $derived(roles.slice(0, roles.indexOf(house.member?.role ?? 'reader') + 1));

  const draft = kept('invite', { email: '', role: 'contributor' as Role });
  let link = $state('');
  let to = $state('');
  let words = $state('');
  let ending = $state(0);

  const setRole = (p: Schema['HousePerson'], role: Role) =>
    changing.run(async () => {
      const path = { ...here(), member: p.id };
      const was = p.role;
      await need(api.PUT('/houses/{house}/people/{member}', { params: { path }, body: { role } }));
      return {
        said: `${p.name} is a ${role} now`,
        undo: [way('put', '/houses/{house}/people/{member}', { params: { path }, body: { role: was } })],
      };
    });
  const end = (p: Schema['HousePerson']) =>
    changing.run(async () => {
      await need(api.DELETE('/houses/{house}/people/{member}', { params: { path: { ...here(), member: p.id } } }));
      ending = 0;
      if (p.self) {
        await session.load();
        void navigate('/');
        return;
      }
      return `${p.name} is out of ${house.member?.name}`;
    });
  const invite = (mail: boolean) =>
    inviting.run(async () => {
      link = '';
      const body = { ...draft.now, mail };
      const got = await need(api.POST('/houses/{house}/invitations', { params: { path: here() }, body }));
      to = draft.now.email;
      draft.clear();
      if (mail) return `The invitation is on its way to ${to}`;
      link = got.link ?? '';
    });
  const uninvite = (i: Schema['Invitation']) =>
    changing.run(async () => {
      await need(api.DELETE('/houses/{house}/invitations/{invitation}', { params: { path: { ...here(), invitation: i.id } } }));
      return `The invitation of ${i.email} leads nowhere now`;
    });
  // Access tokens with which programs reach the house, for its keepers.
  const tokens = createQuery(() => ({
    queryKey: ['house', house.id, 'tokens'],
    enabled: house.keeper,
    queryFn: () => need(api.GET('/houses/{house}/tokens', { params: { path: here() } })).then((t) => t.tokens),
  }));
  const purposes: Record<Schema['Purpose'], string> = {
    read: 'looks and downloads',
    audit: 'judges and repaints',
    send: 'fixes and sends',
    everything: 'does all that its role may',
  };
  const endToken = (t: Schema['AccessToken']) =>
    changing.run(async () => {
      await need(api.DELETE('/houses/{house}/tokens/{token}', { params: { path: { ...here(), token: t.id } } }));
      return `The token ${t.name} of ${t.owner} opens nothing any more`;
    });
  const seen = new Intl.DateTimeFormat('en-US', { dateStyle: 'medium' });
</script>

<div class="work">
  <main class="flex min-h-0 flex-col overflow-y-auto p-5 pt-4">
    <div class="flex flex-wrap items-baseline gap-x-6">
      <h1>{house.member?.name}</h1>
      <Views now="people" />
    </div>
    {#if changing.problem}<p role="alert" class="mt-3 border-l-4 border-current pl-3">{changing.problem}</p>{/if}
    {#if people.isError}<p class="mt-4" role="alert">{people.error.message}</p>{/if}
    {#if people.data}
      <div class="mt-2"><ListFind bind:words of={people.data.members.length} label="Find in the people" /></div>
      <table class="mt-4 w-full">
        <thead>
          <tr class="border-b border-current text-left text-small phone:sr-only"
            ><th class="pb-1">Person</th><th class="pb-1">May</th><th class="pb-1 max-[40rem]:hidden"
              >{house.keeper ? 'Last here' : ''}</th
            ><th class="pb-1"><span class="sr-only">Membership</span></th></tr
          >
        </thead>
        <tbody>
          {#each people.data.members.filter((m) => fits(words, m.name, m.email, m.role)) as p (p.id)}
            <tr class="rule border-b align-top phone:flex phone:flex-wrap phone:items-start phone:justify-between">
              <td class="min-w-[13.67rem] py-2 pr-4 max-[40rem]:min-w-0 phone:w-full"
                ><b>{p.name}</b>{p.self ? ' (you)' : ''}{#if p.email}<span class="block text-small break-all">{p.email}</span
                  >{/if}{#if house.keeper && p.secondFactor}<span class="block text-small">with a second factor</span>{/if}</td
              >
              <td class="py-2 pr-4">
                {#if house.keeper}
                  <select
                    class="select w-[10rem]"
                    aria-label={`Role of ${p.name}`}
                    value={p.role}
                    disabled={changing.busy}
                    onchange={async (e) => {
                      const select = e.currentTarget;
                      if (!(await setRole(p, select.value as Role))) select.value = p.role;
                    }}
                    >{#each roles as r (r)}<option value={r}>{r}</option>{/each}</select
                  >
                {:else}{p.role}{/if}
                <span class="block text-small">{mayAs[p.role]}</span>
              </td>
              <td class="py-2 pr-4 max-[40rem]:hidden">{p.seen ? seen.format(new Date(p.seen)) : ''}</td>
              <td class="py-2 text-right">
                {#if house.keeper || p.self}
                  {#if ending === p.id}
                    <span class="text-small">{p.self ? 'You no longer see this house.' : 'Their sessions here end at once.'}</span>
                    <span class="flex justify-end gap-3"
                      ><button class="btn btn-primary" disabled={changing.busy} onclick={() => end(p)}
                        >{p.self ? 'Leave' : 'End it'}</button
                      ><button class="link" onclick={() => (ending = 0)}>stay</button></span
                    >
                  {:else}<button class="link" onclick={() => (ending = p.id)}>{p.self ? 'leave' : 'end membership'}</button>{/if}
                {/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
      {#if people.data.invitations.length > 0}
        <h2 class="mt-6">Invited</h2>
        <ul>
          {#each people.data.invitations as i (i.id)}
            <li class="rule flex items-baseline gap-4 border-b py-2">
              <span class="min-w-0 flex-1 break-all">{i.email}, as a {i.role}</span>
              <span class="text-small">by {i.by}, until {seen.format(new Date(i.until))}</span>
              <button class="link" disabled={changing.busy} onclick={() => uninvite(i)}>take back</button>
            </li>
          {/each}
        </ul>
      {/if}
    {/if}
    {#if house.keeper && (tokens.data?.length ?? 0) > 0}
      <h2 class="mt-8 text-[1.13rem]">Access tokens of programs</h2>
      <ul class="mt-1">
        {#each tokens.data ?? [] as t (t.id)}
          <li class="rule border-b py-2">
            <span class="flex items-baseline justify-between gap-4"
              ><b class="min-w-0 break-words">{t.name}</b><button class="link" disabled={changing.busy} onclick={() => endToken(t)}
                >end it</button
              ></span
            >
            <span class="block">{t.owner}, as a {t.role}; it {purposes[t.purpose]}</span>
            <span class="block text-small"
              >{#if t.used}last used {seen.format(new Date(t.used))} from <span class="font-mono">{t.from}</span>{:else}never used{/if};
              until {seen.format(new Date(t.until))}{t.house ? '' : '; for all houses of its owner'}</span
            >
          </li>
        {/each}
      </ul>
    {/if}
  </main>
  <aside class="overflow-y-auto bg-base-200 p-5" aria-label="Invite">
    {#if people.data?.mayInvite}
      <h2 class="text-[1.13rem]">Invite somebody</h2>
      <form
        class="mt-3 grid gap-3"
        onsubmit={(e) => {
          e.preventDefault();
          void invite(people.data?.mail ?? false);
        }}
      >
        <label class="grid gap-1"
          ><b>E-mail</b><input class="input w-full" type="email" required autocomplete="off" bind:value={draft.now.email} /></label
        >
        <fieldset class="grid gap-1">
          <legend class="mb-1 font-bold">As a</legend>
          {#each given as r (r)}<label class="flex items-baseline gap-2"
              ><input type="radio" name="role" value={r} bind:group={draft.now.role} /><span
                >{r}<span class="block text-small">{mayAs[r]}</span></span
              ></label
            >{/each}
        </fieldset>
        {#if inviting.problem}<p role="alert" class="border-l-4 border-current pl-3">{inviting.problem}</p>{/if}
        <span class="flex flex-wrap gap-3">
          {#if people.data.mail}<button class="btn btn-primary" disabled={inviting.busy}>Mail the invitation</button>{/if}
          <button
            type={people.data.mail ? 'button' : 'submit'}
            class="btn"
            class:btn-primary={!people.data.mail}
            class:btn-plain={people.data.mail}
            disabled={inviting.busy}
            onclick={(e) => {
              if (people.data?.mail && e.currentTarget.form?.reportValidity()) void invite(false);
            }}>Make a link</button
          >
        </span>
        <p class="text-small">
          A link is good for a week, for one person.{people.data.mail
            ? ' Who follows one that you made is mailed another first, so that nobody joins for somebody else.'
            : ''}
        </p>
      </form>
      {#if link}
        <div class="mt-4 border border-current p-3">
          <p>The link for <b>{to}</b>. It is shown this once.</p>
          <p class="mt-1 break-all font-mono text-small">{link}</p>
          <button class="btn btn-primary mt-2" onclick={() => copy(link, 'The link is')}>Copy the link</button>
        </div>
      {/if}
    {:else}
      <p>Keepers of this house let people in.</p>
    {/if}
  </aside>
</div>
