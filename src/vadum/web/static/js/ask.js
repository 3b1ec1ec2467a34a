// Requests that name whom their page was made for: one browser has one cookie for all its tabs, and the program refuses
// to read or write for another person than the page's own.
export const who = document.body.dataset.who || "";
export const person = document.body.dataset.person || "";
const PATIENCE_MS = 12000;
const named = () => (person ? { "Vadum-Person": person } : {});

export const get = (url, options = {}) => fetch(url, { ...options, headers: { ...named(), ...options.headers } });

// An event stream carries no headers of ours: the person stands in its address.
export const streamed = (url) =>
  new EventSource(person ? `${url}${url.includes("?") ? "&" : "?"}vadum-person=${person}` : url);

export class Refusal extends Error {
  constructor(status, answer) {
    super(answer.message || "It could not be saved.");
    this.status = status;
    this.field = answer.field || "";
    this.slip = Boolean(answer.slip);
    this.asksWhy = Boolean(answer.asks_why);
  }
}

export async function post(url, body, patience = PATIENCE_MS) {
  const answer = await fetch(url, {
    method: "POST",
    headers: { "Content-Type": "application/json", Accept: "application/json", ...named() },
    body: JSON.stringify(body),
    signal: AbortSignal.timeout(patience),
  });
  const text = await answer.text();
  let data;
  try {
    data = JSON.parse(text);
  } catch {
    data = { message: `The server answered ${answer.status}.` };
  }
  if (!answer.ok) throw new Refusal(answer.status, data);
  return data;
}
