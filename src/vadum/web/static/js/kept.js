// A desk that was opened on this device opens again without a network: the browser keeps its page, its files and its
// last parts. The service worker (worker.js) hands them out; signing out throws the pages away.
import { get, person } from "./ask.js";

const OWNER = "vadum-person"; // whose pages this device holds: written by the service worker
const pagesOf = (id) => `vadum-pages-${id}`;
const PAGES = pagesOf(person);
const FILES = `vadum-files-${new URL(import.meta.url).pathname.split("/")[2]}`;
const able = "caches" in window && "serviceWorker" in navigator && window.isSecureContext;
const parts = (code) => `/runs/${code}/parts`;
const safely = (work) => work.catch(() => {}); // a full or forbidden store costs the desk nothing

export function register() {
  if (able && person) safely(navigator.serviceWorker.register("/worker.js"));
}

// On any sign that nobody is signed in, or somebody else, what was kept goes.
export async function forget() {
  if (!able) return;
  const names = (await caches.keys()).filter((name) => name === OWNER || name.startsWith(pagesOf("")));
  await Promise.all(names.map((name) => caches.delete(name)));
}
document.addEventListener("vadum:signedout", () => safely(forget()));

export function keepParts(code, said) {
  if (!able) return;
  const kept = new Response(JSON.stringify(said), { headers: { "Content-Type": "application/json" } });
  safely(caches.open(PAGES).then((box) => box.put(parts(code), kept)));
}

// The parts that were shown last, where they are newer than the page itself and it came from the browser's store.
export async function keptParts(code, seq) {
  if (!able || !document.documentElement.hasAttribute("data-kept")) return null;
  const found = await caches.match(parts(code), { cacheName: PAGES }).catch(() => null);
  const said = found ? await found.json() : null;
  return said && said.seq > seq ? said : null;
}

async function keepPage(path) {
  await (await caches.open(OWNER)).put("/person", new Response(person));
  const answer = await get(path); // a page that tells of trouble is not one to come back to
  if (answer.ok) await (await caches.open(PAGES)).put(path, answer);
}

// The first page of a visit was loaded before the worker stood in between: it is put by from here.
export function keepDesk() {
  const throughWorker = performance.getEntriesByType("navigation")[0]?.workerStart > 0;
  if (!able || throughWorker || document.documentElement.hasAttribute("data-kept")) return;
  const files = performance
    .getEntriesByType("resource")
    .map((r) => r.name)
    .filter((name) => new URL(name).pathname.startsWith("/static/"));
  safely(caches.open(FILES).then((box) => box.addAll([...new Set(files)])));
  safely(keepPage(location.pathname));
}

export async function keptDesks() {
  if (!able) return [];
  const owner = await caches.match("/person", { cacheName: OWNER });
  if (!owner) return [];
  const box = await caches.open(pagesOf(await owner.text()));
  return (await box.keys())
    .map((request) => new URL(request.url).pathname)
    .filter((path) => /^\/runs\/[^/]+$/.test(path));
}
