/** What a page does by itself: it finds, and folds its menu where there is no room. */
import MiniSearch from 'minisearch';

const input = document.querySelector('input[type=search]');
const list = document.querySelector('#found');
const menu = document.querySelector('details.pages');
const narrow = matchMedia('(max-width: 60rem)');
const MOST = 12;

const fold = () => {
  menu.open = !narrow.matches;
};
fold();
narrow.addEventListener('change', fold);

let index;

/** Only who searches loads what there is to be found. */
async function load() {
  index ??= fetch(new URL('search.json', document.baseURI))
    .then((response) => response.text())
    .then((text) =>
      MiniSearch.loadJSON(text, { fields: ['heading', 'title', 'words'], storeFields: ['heading', 'page', 'title'] }),
    );
  return index;
}

async function find() {
  const wanted = input.value.trim();
  const found =
    wanted === '' ? [] : (await load()).search(wanted, { prefix: true, fuzzy: 0.15, boost: { heading: 4, title: 2 } });
  // A person may have typed on.
  if (wanted !== input.value.trim()) return;
  list.replaceChildren(...found.slice(0, MOST).map(itemOf));
  if (wanted !== '' && found.length === 0)
    list.append(Object.assign(document.createElement('li'), { textContent: `Nothing about “${wanted}”.` }));
  list.hidden = wanted === '';
}

function itemOf({ heading, page, title }) {
  const link = Object.assign(document.createElement('a'), { href: page, textContent: heading });
  const item = document.createElement('li');
  item.append(link, Object.assign(document.createElement('small'), { textContent: title === heading ? '' : title }));
  return item;
}

input.addEventListener('focus', load, { once: true });
input.addEventListener('input', find);
document.addEventListener('keydown', (event) => {
  if (event.key === '/' && document.activeElement !== input) {
    event.preventDefault();
    input.focus();
  } else if (event.key === 'Escape') {
    input.value = '';
    list.hidden = true;
  } else if (event.key === 'Enter' && document.activeElement === input) list.querySelector('a')?.click();
});
