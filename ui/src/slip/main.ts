import { mount } from 'svelte';
import '../app.css';
import Slip from './Slip.svelte';

const target = document.getElementById('slip');
if (!target) throw new Error('the page has no #slip');
document.documentElement.dataset.theme = localStorage.getItem('booth') ?? 'gray';
mount(Slip, { target });
