// What every page has: theme, keys, jobs, remembered choices. No computation of the job happens in the browser.
const root = document.documentElement;

export function setTheme(theme) {
  root.dataset.bsTheme = theme;
  localStorage.setItem("e-theme", theme);
  document.dispatchEvent(new Event("e-theme"));
}

document.addEventListener("click", (e) => {
  if (e.target.closest("[data-theme-toggle]")) setTheme(root.dataset.bsTheme === "light" ? "dark" : "light");
});

// Every htmx change carries the antiforgery token.
document.addEventListener("htmx:configRequest", (e) => {
  const token = document.querySelector('meta[name="antiforgery"]')?.content;
  if (token) e.detail.headers["X-Antiforgery"] = token;
});

export function toast(text, undo) {
  const old = document.querySelector(".e-toast");
  old?.remove();
  const box = document.createElement("div");
  box.className = "e-toast";
  box.setAttribute("role", "status");
  const words = document.createElement("span");
  words.textContent = text;
  box.append(words);
  if (undo) {
    const b = document.createElement("button");
    b.className = "btn btn-bare sm";
    b.textContent = "Take back";
    b.addEventListener("click", undo);
    box.append(b);
  }
  (document.querySelector(".e-stage") ?? document.body).append(box);
  let timer = setTimeout(() => box.remove(), 6000);
  box.addEventListener("pointerenter", () => clearTimeout(timer));
  box.addEventListener("pointerleave", () => {
    timer = setTimeout(() => box.remove(), 2000);
  });
}

// Until the new page stands, this one no longer says that it is ready: what it shows is out of date.
export function anew() {
  document.body.dataset.ready = "false";
  location.reload();
}

// A job that ended while the page was still loading is no reason to wait for the next one.
export function onChanged(act) {
  document.addEventListener("e-changed", act);
  if (document.querySelector("#job [data-done]")) act();
}

document.addEventListener("e-toast", (e) => toast(e.detail.value ?? e.detail));

// Fields with data-remember keep their last value on this machine.
for (const field of document.querySelectorAll("[data-remember]")) {
  const key = "e-choice:" + field.dataset.remember;
  const kept = localStorage.getItem(key);
  if (kept !== null && field.type !== "radio" && !field.dataset.fixed) field.value = kept;
  if (field.type === "radio" && kept === field.value) field.checked = true;
  field.addEventListener("change", () => localStorage.setItem(key, field.value));
}

const typing = (e) =>
  e.target.closest?.("input:not([type=radio]):not([type=checkbox]):not([type=range]), textarea, select, [contenteditable]");
// A slider keeps the keys that move it; all others mean what they mean anywhere.
const slides = (e) => e.target.type === "range" && /^(Arrow|Home|End|Page)/.test(e.key);
const handlers = new Map();

// Single letters act unless a person is typing, and only where the page has given them a meaning.
export function onKey(key, action) {
  handlers.set(key, action);
}

const commands = new Map();

// The usual commands with Ctrl, such as copy and paste: they act unless a person is typing or has text selected.
export function onCommand(key, action) {
  commands.set(key, action);
}

document.addEventListener("keydown", (e) => {
  const command = (e.ctrlKey || e.metaKey) && !e.altKey && !e.shiftKey && commands.get(e.key.toUpperCase());
  if (command && !typing(e) && !String(getSelection())) {
    e.preventDefault();
    command(e);
    return;
  }
  if (e.ctrlKey || e.metaKey || e.altKey || typing(e) || slides(e) || localStorage.getItem("e-keys") === "off") return;
  const name = (e.shiftKey && e.key.length === 1 && /[a-z]/i.test(e.key) ? "⇧" : "") + (e.key.length === 1 ? e.key.toUpperCase() : e.key);
  if (e.key === " " && e.target.closest?.("button, a, summary")) return;
  const action = handlers.get(name);
  if (action) {
    e.preventDefault();
    action(e);
    return;
  }
  if (name === "0") location.href = "/";
  if (name === "?" || name === "⇧?") location.href = "/keys";
  if (/^[1-8]$/.test(name)) document.querySelectorAll(".e-steps a")[Number(name) - 1]?.click();
  if (name === "/") document.querySelector("[data-find]")?.focus();
});
