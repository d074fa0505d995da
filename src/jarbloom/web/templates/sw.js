// The shell of the pages, kept on this device: what they are made of, and the last look at each main page.
"use strict";

const SHELL = "jb-shell-{{ version }}";
const PAGES = "jb-pages";
const FILES = {{ files|tojson }};
const LOOKED_AT = /^\/(tanks\/[a-z0-9-]+(\/(upset|stocking|outlook|log))?|schedule|stores)?$/;
const PATIENCE_MS = 8000;

self.addEventListener("install", (event) => {
  event.waitUntil(caches.open(SHELL).then((cache) => cache.addAll(FILES)).then(() => self.skipWaiting()));
});

self.addEventListener("activate", (event) => {
  event.waitUntil(caches.keys()
    .then((names) => Promise.all(names.filter((n) => n.startsWith("jb-shell-") && n !== SHELL).map((n) => caches.delete(n))))
    .then(() => self.clients.claim()));
});

self.addEventListener("fetch", (event) => {
  const request = event.request;
  const url = new URL(request.url);
  if (url.origin !== location.origin) { return; }
  if (request.method === "POST" && url.pathname === "/sign-out") { event.waitUntil(caches.delete(PAGES)); return; }
  if (request.method === "POST" && request.mode === "navigate" && url.pathname.endsWith("/log/line")) { event.respondWith(sent(request)); return; }
  if (request.method !== "GET") { return; }
  if (url.pathname.startsWith("/static/")) { event.respondWith(file(request)); return; }
  if (request.mode === "navigate") { event.respondWith(look(request, url)); }
});

// The page that brought the worker was there before it; it asks to be kept.
self.addEventListener("message", (event) => {
  const url = new URL(event.source.url);
  if (LOOKED_AT.test(url.pathname)) { event.waitUntil(fetch(url).then((reply) => keep(url, reply)).catch(() => {})); }
});

async function keep(url, reply) {
  if (reply.ok && !reply.redirected && LOOKED_AT.test(url.pathname)) { await (await caches.open(PAGES)).put(url.pathname, reply); }
}

// A saved line is answered with the page that it was typed on: that is the last look at it.
async function sent(request) {
  const reply = await fetch(request);
  const at = reply.headers.get("content-location");
  if (at) { keep(new URL(at, location.origin), reply.clone()); }
  return reply;
}

async function file(request) {
  return await caches.match(request) || fetch(request);
}

// From the house when it answers; else the last look, marked with its age.
async function look(request, url) {
  const patience = new Promise((_, no) => { setTimeout(() => no(new Error("silent")), PATIENCE_MS); });
  try {
    const reply = await Promise.race([fetch(request), patience]);
    keep(url, reply.clone());
    return reply;
  } catch (problem) {
    const kept = await (await caches.open(PAGES)).match(url.pathname);
    if (!kept) { return new Response({{ nothing|tojson }}, { status: 503, headers: { "Content-Type": "text/html; charset=utf-8" } }); }
    const text = (await kept.text()).replace("<html ", `<html data-kept="${kept.headers.get("date") || "earlier"}" `);
    return new Response(text, { headers: kept.headers });
  }
}
