import { createRouter } from 'sv-router';
import Frame from '../Frame.svelte';
import Start from '../Start.svelte';
import Plan from '../stations/audit/Plan.svelte';
import Plans from '../stations/audit/Plans.svelte';
import Project from '../stations/audit/Project.svelte';
import Projects from '../stations/audit/Projects.svelte';
import Repainted from '../stations/audit/Repainted.svelte';
import See from '../stations/audit/See.svelte';
import Report from '../stations/audit/Report.svelte';
import Account from '../stations/house/Account.svelte';
import Server from '../stations/house/Server.svelte';
import People from '../stations/house/People.svelte';
import Settings from '../stations/house/Settings.svelte';
import Trail from '../stations/house/Trail.svelte';
import Guide from '../stations/guide/Guide.svelte';
import Gather from '../stations/gather/Gather.svelte';
import Library from '../stations/library/Library.svelte';
import Proof from '../stations/proof/Proof.svelte';
import Loading from '../stations/send/Loading.svelte';
import Outbox from '../stations/send/Outbox.svelte';
import Programs from '../stations/send/Programs.svelte';
import Public from '../stations/send/Public.svelte';
import Recipients from '../stations/send/Recipients.svelte';
import Send from '../stations/send/Send.svelte';

export const { p, navigate, route } = createRouter({
  '/': Start,
  '/h/:house': {
    layout: Frame,
    '/': Start,
    '/gather': Gather,
    '/gather/:way': Gather,
    '/library': Library,
    '/library/view/:view': Library,
    '/library/:color': Library,
    '/proof': Proof,
    '/proof/:view': Proof,
    '/proof/:view/:subject': Proof,
    '/proof/:view/:subject/:board': Proof,
    '/send': Send,
    '/send/recipients': Recipients,
    '/send/recipients/:recipient': Recipients,
    '/send/outbox': Outbox,
    '/send/public': Public,
    '/send/programs': Programs,
    '/send/loading': Loading,
    '/send/loading/:note': Loading,
    '/send/:set': Send,
    '/audit': Projects,
    '/audit/plans': Plans,
    '/audit/project/:project': Project,
    '/audit/repaint/:repaint': Repainted,
    '/audit/:audit': Report,
    '/audit/:audit/plan': Plan,
    '/audit/:audit/see': See,
    '/house': Settings,
    '/house/people': People,
    '/house/trail': Trail,
    '/account': Account,
    '/server': Server,
    '/guide': Guide,
    '/guide/:task': Guide,
  },
  '*': Start,
});

/** Goes where an address leads, with its query and its mark, which navigate takes apart from the path. */
export function follow(href: string, replace = false) {
  const to = new URL(href, location.href);
  return navigate(to.pathname as '/', { search: to.search, hash: to.hash, replace, scrollToTop: false });
}

interface Entries {
  currentEntry: { index: number } | null;
  entries: () => { url: string | null }[];
}

/** For a link that leads back to a list: where one came from that list, back to it in the history, so that it stands as it stood. */
export function backTo(e: MouseEvent & { currentTarget: HTMLAnchorElement }) {
  const past = (window as { navigation?: Entries }).navigation; // not every browser tells
  if (past?.entries()[(past.currentEntry?.index ?? 0) - 1]?.url !== e.currentTarget.href) return;
  e.preventDefault();
  e.stopPropagation(); // the router follows every link that it sees
  history.back();
}
