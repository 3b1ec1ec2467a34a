// The service worker: a desk that was opened before opens without a network, for the person who opened it. Network first,
// always; files by their versioned name. Its first line, with the version, is written by the server.
const PAGES = "vadum-pages-"; // and the person's id
const OWNER = "vadum-person";
const FILES = `vadum-files-${VERSION}`;
const AWAY = "/away";
const PATIENCE_MS = 4000;
const MOST = 24; // pages and parts together: a dozen desks
const DESK = /^\/runs\/[^/]+(\/parts)?$/;

self.addEventListener("install", (event) => {
  self.skipWaiting();
  event.waitUntil(caches.open(FILES).then((box) => box.addAll(SHELL)));
});

const isPages = (name) => name.startsWith(PAGES);

// A page of an older program would ask for files that are gone: it goes with them, and so do its parts.
async function forgetOld() {
  const names = await caches.keys();
  for (const name of names.filter((one) => one.startsWith("vadum-files-") && one !== FILES)) await caches.delete(name);
  for (const name of names.filter(isPages)) {
    const box = await caches.open(name);
    for (const key of await box.keys()) {
      const page = new URL(key.url).pathname.replace(/\/parts$/, "");
      const kept = await box.match(page);
      if (!kept || !(await kept.text()).includes(`/static/${VERSION}/`)) {
        await box.delete(page);
        await box.delete(`${page}/parts`);
      }
    }
  }
}

async function owner() {
  const said = await caches.match("/person", { cacheName: OWNER });
  return said ? said.text() : "";
}

// Whose pages are held: those of anybody else go.
async function belongsTo(person) {
  for (const name of await caches.keys()) if (isPages(name) && name !== `${PAGES}${person}`) await caches.delete(name);
  if (!person) return caches.delete(OWNER);
  if ((await owner()) !== person) await (await caches.open(OWNER)).put("/person", new Response(person));
}

// What an answer says of who is signed in: a page names its person; the way to the sign-in page, and a refusal for want
// of a session or for another person's, name nobody.
async function noted(request, answer) {
  const person = answer.headers.get("Vadum-Person");
  if (person) await belongsTo(person);
  else if (answer.status === 401 || /^\/signin/.test(new URL(answer.url || request.url).pathname)) await belongsTo("");
}

self.addEventListener("activate", (event) => event.waitUntil(forgetOld().then(() => self.clients.claim())));

async function put(request, answer, person) {
  const box = await caches.open(`${PAGES}${person || (await owner())}`);
  await box.delete(request, { ignoreSearch: true });
  await box.put(request, answer);
  const keys = await box.keys();
  await Promise.all(keys.slice(0, Math.max(0, keys.length - MOST)).map((key) => box.delete(key)));
}

// A kept page says so, because its time of making is no time of day any more.
async function marked(answer) {
  const text = await answer.text();
  return new Response(text.replace("<html", "<html data-kept"), { headers: answer.headers });
}

async function kept(request) {
  const path = new URL(request.url).pathname;
  const whose = request.headers.get("Vadum-Person") || (await owner());
  const found = DESK.test(path) && whose ? await caches.match(path, { cacheName: `${PAGES}${whose}` }) : null;
  if (found) return request.mode === "navigate" ? marked(found) : found;
  if (request.mode !== "navigate") return Response.error();
  const away = await caches.match(AWAY);
  return away ? marked(away) : Response.error();
}

async function networkFirst(event) {
  const { request } = event;
  const path = new URL(request.url).pathname;
  const asked = fetch(request).then(async (answer) => {
    const keeps = answer.ok && !answer.redirected && answer.type === "basic" && DESK.test(path);
    const copy = keeps && !answer.headers.has("Vadum-Broken") && !new URL(request.url).search ? answer.clone() : null;
    await noted(request, answer).catch(() => {});
    const person = answer.headers.get("Vadum-Person") || request.headers.get("Vadum-Person");
    if (copy) event.waitUntil(put(path, copy, person));
    return answer;
  });
  const slow = new Promise((done) => setTimeout(done, PATIENCE_MS, null));
  // A line that hangs is no better than none, where there is a copy; without one it is waited for.
  const first = await Promise.race([asked.catch(() => null), slow]);
  if (first) return first;
  const copy = await kept(request);
  if (copy && copy.type !== "error" && DESK.test(path)) return copy;
  return asked.catch(() => copy);
}

async function filesFirst(request) {
  const found = await caches.match(request, { cacheName: FILES });
  if (found) return found;
  const answer = await fetch(request);
  if (answer.ok && new URL(request.url).pathname.startsWith(`/static/${VERSION}/`)) {
    const copy = answer.clone();
    caches
      .open(FILES)
      .then((box) => box.put(request, copy))
      .catch(() => {});
  }
  return answer;
}

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const { pathname, origin } = new URL(request.url);
  if (origin !== location.origin) return;
  if (request.method === "POST" && pathname === "/signout") event.waitUntil(belongsTo(""));
  if (request.method !== "GET") return;
  if (pathname.startsWith("/static/")) event.respondWith(filesFirst(request));
  else if (request.mode === "navigate" && /^\/(enter|signin)/.test(pathname)) event.waitUntil(belongsTo(""));
  else if (request.mode === "navigate") event.respondWith(networkFirst(event));
  else if (DESK.test(pathname)) event.respondWith(networkFirst(event));
});
