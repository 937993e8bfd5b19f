// Loads a page again when it has changed, and sheets without loading it again. Nothing of it stays in the page.
(function () {
  "use strict";
  var own = document.currentScript, folder = "/" + own.dataset.folder + "/", key = own.dataset.key, of = own.dataset.of;
  // Which reading of the board this page has.
  var number = +own.dataset.number;
  own.remove();
  // The choice of pins is no part of the page's address.
  var asked = location.pathname + location.search;
  var kept = location.search.slice(1).split("&").filter(function (part) { return part && part.split("=")[0] !== own.dataset.folder; });
  var clean = location.pathname + (kept.length ? "?" + kept.join("&") : "") + location.hash;
  if (clean !== asked + location.hash) { history.replaceState(history.state, "", clean); }

  function again() {
    history.replaceState(history.state, "", asked + location.hash);
    location.reload();
  }
  function sheets() { return Array.prototype.slice.call(document.querySelectorAll("link[rel~=stylesheet][href]")); }
  function swap(link, href) {
    var next = link.cloneNode();
    next.href = href;
    next.onload = next.onerror = function () { next.onload = next.onerror = null; link.remove(); };
    link.after(next);
  }
  function path(href) { var url = new URL(href, location.href); return url.origin === location.origin ? url.pathname : ""; }
  function loaded(file) { return performance.getEntriesByType("resource").some(function (entry) { return path(entry.name) === file; }); }

  // What changed since this page's reading is asked for, so that nothing is lost that happened while nobody listened.
  function look() {
    // What is not parsed yet cannot be made anew.
    if (document.readyState === "loading") { return addEventListener("DOMContentLoaded", look, { once: true }); }
    fetch(folder + "state?since=" + number + "&address=" + encodeURIComponent(asked)).then(function (answer) { return answer.json(); }).then(function (state) {
      // An answer that was overtaken by a later one has nothing to say.
      if (!state.sheets || state.number < number) { return; }
      number = state.number;
      if (state.key !== key) { return again(); }
      var links = sheets(), stale = [];
      state.sheets.forEach(function (sheet) {
        links.forEach(function (link) {
          var name = decodeURIComponent(path(link.href)).slice(folder.length);
          if (path(link.href).indexOf(folder) === 0 && name !== sheet[1] && name.replace(/\.[^.]*\.css$/, "") === sheet[0]) { stale.push([link, folder + encodeURIComponent(sheet[1])]); }
        });
      });
      var missed = state.files.some(function (file) {
        var link = links.filter(function (link) { return path(link.href) === file; })[0];
        if (link) { stale.push([link, file + "?" + number]); }
        return !link && loaded(file);
      });
      if (missed) { return again(); }
      stale.forEach(function (pair) { swap(pair[0], pair[1]); });
    }, function () {});
  }
  function change(news) {
    if (news.opened || !news.trouble && (news.board || news.files.length)) { look(); }
  }

  // One page listens for all that are open: a browser keeps few connections to a server.
  var channel = new BroadcastChannel(folder);
  channel.onmessage = function (event) { change(event.data); };
  function listen() {
    return new Promise(function () {
      var events = new EventSource(folder + "events");
      function tell(news) { channel.postMessage(news); change(news); }
      events.onopen = function () { tell({ opened: true, files: [] }); };
      events.onmessage = function (event) { tell(JSON.parse(event.data)); };
    });
  }
  if (navigator.locks) { navigator.locks.request(folder, listen); } else { listen(); }
  look();

  // A link to the server that is shown here stays here.
  if (of) {
    addEventListener("click", function (event) {
      var link = event.target.closest && event.target.closest("a[href]");
      if (link && link.origin === new URL(of).origin) { link.href = location.origin + link.href.slice(link.origin.length); }
    }, true);
  }
})();
