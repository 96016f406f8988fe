/* What the page hears while it is open: changes by others, and alarms, also as notifications where they are allowed. */
(() => {
  "use strict";

  const page = document.querySelector("[data-live]");
  if (!page || !window.EventSource) return;
  const place = document.getElementById("alarms");
  const heard = () => new Set(JSON.parse(localStorage.getItem("heard") ?? "[]"));
  const notify = (one) => {
    const known = heard();
    if (known.has(one.id)) return;
    localStorage.setItem("heard", JSON.stringify([...known, one.id].slice(-200)));
    if (window.Notification?.permission !== "granted") return;
    const say = { body: one.job, tag: one.id, requireInteraction: one.is_urgent };
    navigator.serviceWorker?.ready.then((worker) => worker.showNotification(one.words, say)).catch(() => new Notification(one.words, say));
  };
  const show = (alarms) => {
    if (!place) return;
    place.hidden = !alarms.length;
    place.querySelector("ul").replaceChildren(...alarms.map((one) => {
      const line = document.createElement("li"), link = document.createElement("a");
      line.classList.toggle("is-urgent", one.is_urgent);
      line.dataset.alarm = one.id;
      link.href = one.href;
      link.textContent = one.words;
      line.append(link);
      return line;
    }));
    alarms.forEach(notify);
  };
  const is_busy = () => document.querySelector("main details[open] form, form[data-sending], main form :focus:not(button), dialog[open], #mark:not([hidden]), .verdict-word");
  let listens = null, due = 0;
  const listen = () => {
    if (document.hidden || listens) return;
    listens = new EventSource("/live");
    listens.addEventListener("alarms", (event) => show(JSON.parse(event.data)));
    listens.addEventListener("changed", (event) => {
      clearTimeout(due);
      due = setTimeout(() => {
        if (window.amberSignal?.isLeft()) return;
        if (!is_busy()) { location.reload(); return; }
        const told = document.getElementById("changed-told");
        if (told) told.hidden = false;
      }, Math.random() * JSON.parse(event.data).spread_ms);
    });
  };
  // A page that nobody looks at does not listen: phones sleep.
  document.addEventListener("visibilitychange", () => {
    if (!document.hidden) { listen(); return; }
    listens?.close();
    listens = null;
  });
  setTimeout(listen, 1500);

  const ask = document.querySelector("[data-notify]");
  if (ask && window.Notification && Notification.permission === "default") {
    ask.hidden = false;
    ask.addEventListener("click", async () => { await Notification.requestPermission(); ask.hidden = true; });
  }
})();
