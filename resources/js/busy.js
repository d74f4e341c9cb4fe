// Whatever takes over 300 ms shows that it is at work: what htmx asks for, and plain forms. What a page asks for by itself does not.
const AFTER_MS = 300;
const ONCE_IN_MS = 10000;
const bar = document.querySelector('#at-work');
const asked = new Set();
let timer = null;

function begin() {
  timer ??= setTimeout(() => (bar.hidden = false), AFTER_MS);
}

function end() {
  clearTimeout(timer);
  timer = null;
  bar.hidden = true;
}

const byItself = (element) => /^(every|load)/.test(element.closest?.('[hx-trigger]')?.getAttribute('hx-trigger') ?? '');

// A session that nobody uses ends, also while its page goes on asking how things stand.
document.addEventListener('htmx:configRequest', (event) => {
  if (byItself(event.detail.elt)) event.detail.headers['X-By-Itself'] = '1';
});

document.addEventListener('htmx:beforeSend', (event) => {
  if (byItself(event.detail.elt)) return;
  asked.add(event.detail.xhr);
  begin();
});
document.addEventListener('htmx:afterRequest', (event) => {
  if (asked.delete(event.detail.xhr) && asked.size === 0) end();
});

// A form that htmx does not take is sent once, however often it is clicked.
const sent = new WeakSet();
document.addEventListener('submit', (event) => {
  if (event.defaultPrevented) return;
  const form = event.target;
  if (sent.has(form)) {
    event.preventDefault();
    return;
  }
  sent.add(form);
  begin();
  // The browser may have been stopped, or what came is a file that is kept.
  setTimeout(() => {
    sent.delete(form);
    end();
  }, ONCE_IN_MS);
});
document.addEventListener('keydown', (event) => event.key === 'Escape' && end());
// Also where a page comes back from the browser's memory.
window.addEventListener('pageshow', (event) => event.persisted && end());
