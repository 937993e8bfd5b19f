// The frame page: the site's pages at several widths, with their pins switched on and off.
(function () {
  "use strict";
  var folder = location.pathname, name = folder.replace(/\//g, "");
  var $ = function (id) { return document.getElementById(id); };
  var TINTS = ["#c8553d", "#2f7f9e", "#7a5cc4", "#4d8a3a", "#c07a12", "#a8437f", "#3d6fc8", "#6f7a1f", "#8a5a44"];
  var site = { pages: [] }, page = { pins: [], findings: null }, at = decodeURIComponent(location.hash.slice(1)) || "/";
  var off = new Set(), views = [], leader = null;
  var kept = { widths: [[390, true], [820, true], [1280, true]], plain: false, outline: false };
  try { kept = Object.assign(kept, JSON.parse(localStorage.getItem("deft-pin preview") || "{}")); } catch (error) { /* kept for this visit alone */ }
  function keep() { try { localStorage.setItem("deft-pin preview", JSON.stringify(kept)); } catch (error) { /* as above */ } }
  function make(tag, properties, children) {
    var node = Object.assign(document.createElement(tag), properties || {});
    (children || []).forEach(function (child) { node.append(child); });
    return node;
  }
  function get(what) { return fetch(folder + what).then(function (answer) { return answer.ok ? answer.json() : Promise.reject(new Error(answer.status)); }); }
  function say(text) { $("live").textContent = text; }

  // What stands in an address for the pins that are off.
  function choice(isPlain) {
    if (isPlain) { return name + "="; }
    var names = page.pins.filter(function (pin) { return off.has(pin.name); }).map(function (pin) { return "-" + encodeURIComponent(pin.name); });
    return names.length ? name + "=" + names.join(",") : "";
  }
  function address(path, isPlain) {
    var parts = path.split("#"), query = choice(isPlain);
    if (!query) { return path; }
    return parts[0] + (parts[0].indexOf("?") < 0 ? "?" : "&") + query + (parts[1] ? "#" + parts[1] : "");
  }
  function encoded(path) { return path.split("/").map(encodeURIComponent).join("/"); }

  // Views: the page in a frame of each width, drawn as large as there is room.
  function draw() {
    var stage = $("stage"), wanted = [];
    kept.widths.forEach(function (row) {
      if (!row[1]) { return; }
      if (kept.plain) { wanted.push({ width: row[0], isPlain: true }); }
      wanted.push({ width: row[0], isPlain: false });
    });
    var same = wanted.length === views.length && wanted.every(function (want, number) { return want.width === views[number].width && want.isPlain === views[number].isPlain; });
    if (!same) {
      views = wanted.map(function (want) {
        var frame = make("iframe", { title: want.width + " pixels wide" + (want.isPlain ? ", plain" : "") });
        var caption = make("figcaption", {}, [make("b", { textContent: want.width }), " "]);
        var glass = make("div", { className: "glass" }, [frame]);
        var figure = make("figure", { className: "view" + (want.isPlain ? " plain" : "") }, [caption, glass]);
        var view = { width: want.width, isPlain: want.isPlain, frame: frame, glass: glass, figure: figure, shown: "" };
        frame.addEventListener("load", function () { loaded(view); });
        return view;
      });
      stage.replaceChildren.apply(stage, views.map(function (view) { return view.figure; }));
      leader = null;
    }
    fit();
    views.forEach(show);
  }
  function fit() {
    var stage = $("stage"), gaps = 13 * (views.length + 1), total = views.reduce(function (sum, view) { return sum + view.width; }, 0) || 1;
    var narrowest = Math.min.apply(null, views.map(function (view) { return view.width; }).concat(390));
    // On a phone one view fills the stage, and the others are beside it.
    var least = stage.clientWidth < 640 ? (stage.clientWidth - 26) / narrowest : 0.2;
    var scale = Math.min(1, Math.max(least, (stage.clientWidth - gaps) / total)), room = Math.max(200, stage.clientHeight - 56);
    views.forEach(function (view) {
      var height = Math.round(room / scale);
      view.frame.style.cssText = "width:" + view.width + "px;height:" + height + "px;transform:scale(" + scale + ")";
      view.glass.style.cssText = "width:" + Math.ceil(view.width * scale) + "px;height:" + Math.ceil(height * scale) + "px";
    });
  }
  function show(view) {
    var wanted = address(encoded(at), view.isPlain);
    if (view.shown === wanted) { return; }
    view.shown = wanted;
    var inside = reach(view);
    if (inside && inside.location.href !== "about:blank") { inside.location.replace(wanted); } else { view.frame.src = wanted; }
  }
  // The window of a view; none while it shows something of another origin.
  function reach(view) { try { return view.frame.contentWindow.document ? view.frame.contentWindow : null; } catch (error) { return null; }}
  function path(inside) {
    var kept = inside.location.search.slice(1).split("&").filter(function (part) { return part && part.split("=")[0] !== name; });
    return decodeURIComponent(inside.location.pathname) + (kept.length ? "?" + kept.join("&") : "");
  }
  function loaded(view) {
    var inside = reach(view);
    if (!inside || inside.location.href === "about:blank") { return; }
    // A view that went to another page takes the others with it, and has its own pins again.
    if (path(inside) !== at) {
      view.shown = "";
      go(path(inside), view);
      return;
    }
    inside.addEventListener("scroll", function () { follow(view); }, { passive: true });
    inside.addEventListener("click", function (event) {
      var link = event.target.closest && event.target.closest("a[href]");
      if (!link || event.defaultPrevented || event.button || event.ctrlKey || event.metaKey || link.target && link.target !== "_self") { return; }
      if (link.origin !== location.origin || link.pathname === inside.location.pathname && link.hash) { return; }
      event.preventDefault();
      go(decodeURIComponent(link.pathname) + link.search);
    });
    inside.addEventListener("pointerenter", function () { leader = view; }, true);
    inside.addEventListener("wheel", function () { leader = view; }, { passive: true });
    inside.addEventListener("keydown", function (event) { leader = view; keys(event); });
    var lines = new inside.MutationObserver(function () { outline(view); });
    lines.observe(inside.document.documentElement, { childList: true, subtree: true, attributes: true, attributeFilter: ["class", "id", "style", "hidden"] });
    outline(view);
  }
  // Scrolling is kept together: as far of the way down, or exactly where the widths are the same.
  var settling = 0;
  function follow(view) {
    if (leader && leader !== view && Date.now() < settling) { return; }
    leader = view;
    settling = Date.now() + 150;
    var from = reach(view);
    if (!from) { return; }
    var root = from.document.scrollingElement || from.document.documentElement, way = root.scrollHeight - from.innerHeight;
    views.forEach(function (other) {
      var to = other !== view && reach(other);
      if (!to) { return; }
      var own = to.document.scrollingElement || to.document.documentElement;
      var top = other.width === view.width ? from.scrollY : way > 0 ? (from.scrollY / way) * (own.scrollHeight - to.innerHeight) : 0;
      to.scrollTo({ left: to.scrollX, top: top, behavior: "instant" });
    });
  }

  // Outlines lie over the page, in a layer of this page: nothing is put into the other.
  function outline(view) {
    if (view.waits) { return; }
    view.waits = requestAnimationFrame(function () { view.waits = 0; drawOutlines(view); });
  }
  function drawOutlines(view) {
    var inside = reach(view), layer = view.glass.querySelector(".outlines");
    if (layer) { layer.remove(); }
    if (!inside || !kept.outline || view.isPlain) { return; }
    layer = make("div", { className: "outlines" });
    var scale = view.glass.getBoundingClientRect().width / view.width, count = 0;
    page.pins.forEach(function (pin, number) {
      if (pin.off || !pin.here || off.has(pin.name)) { return; }
      var seen = new Set();
      pin.touched.forEach(function (selector) {
        var found = [];
        try { found = inside.document.querySelectorAll(selector); } catch (error) { /* a selector for a state that browsers do not ask for */ }
        found.forEach(function (element) {
          if (seen.has(element) || count > 600) { return; }
          seen.add(element);
          var box = element.getBoundingClientRect();
          if (!box.width && !box.height) { return; }
          count += 1;
          layer.append(make("i", { title: pin.name, style: "left:" + box.left * scale + "px;top:" + box.top * scale + "px;width:" + box.width * scale + "px;height:" + box.height * scale + "px;--tint:" + TINTS[number % TINTS.length] }));
        });
      });
    });
    view.glass.append(layer);
  }

  // What stands at the side.
  function list() {
    $("pin-count").textContent = page.pins.length ? "(" + page.pins.filter(function (pin) { return pin.here && !pin.off && !off.has(pin.name); }).length + " of " + page.pins.length + " on)" : "";
    $("all").hidden = page.pins.length < 2;
    $("pins").replaceChildren.apply($("pins"), page.pins.length ? page.pins.map(row) : [make("li", { className: "soft", textContent: "No pin is for this page." })]);
    var findings = page.findings;
    $("finding-count").textContent = findings && findings.length ? "(" + findings.length + ")" : "";
    $("findings").replaceChildren.apply($("findings"), findings === null ? [make("li", { className: "soft", textContent: "The check is going on." })] : findings.length ? findings.map(finding) : [make("li", { className: "soft", textContent: "Nothing to say about this page." })]);
    $("policies").hidden = !(page.policy && page.policy.length);
    $("policy").replaceChildren.apply($("policy"), (page.policy || []).map(function (text) { return make("li", { textContent: text }); }));
  }
  function row(pin, number) {
    var isOn = !off.has(pin.name), usable = page.pins.filter(function (own) { return own.here && !own.off; });
    var isAlone = isOn && usable.length > 1 && usable.every(function (own) { return own === pin || off.has(own.name); });
    var mark = make("i");
    mark.style.setProperty("--tint", TINTS[number % TINTS.length]);
    var facts = make("p", { className: "facts" }, [pin.holds.join(", ") || "nothing yet"]);
    if (pin.within) { facts.append(" within ", make("code", { textContent: pin.within })); }
    var parts = [make("span", { className: "name" }, [mark, pin.name]), facts];
    if (pin.off) { facts.append(" · off on the board"); }
    else if (!pin.here) { facts.append(" · the page does not hold what it asks for"); }
    else {
      parts.push(make("span", { className: "choose", role: "group", ariaLabel: pin.name }, [
        press("On", isOn && !isAlone, function () { off.delete(pin.name); switched(pin.name + " is on"); }),
        press("Off", !isOn, function () { off.add(pin.name); switched(pin.name + " is off"); }),
        press("Alone", isAlone, function () { page.pins.forEach(function (own) { if (own === pin) { off.delete(own.name); } else { off.add(own.name); } }); switched(pin.name + " alone is on"); })
      ]));
    }
    return make("li", { className: "pin" + (isOn && pin.here && !pin.off ? "" : " off") }, parts);
  }
  function press(text, isPressed, act) {
    var button = make("button", { type: "button", textContent: text, onclick: act });
    button.setAttribute("aria-pressed", isPressed);
    return button;
  }
  function finding(own) {
    var parts = [make("div", {}, [make("b", { textContent: own.severity + " " + own.code }), own.pin ? " " + own.pin : ""]), make("p", { textContent: own.message })];
    if (own.help) { parts.push(make("p", { className: "help", textContent: own.help })); }
    parts.push(make("code", { textContent: own.place }));
    return make("li", { className: "finding " + own.severity }, parts);
  }
  function switched(text) { var focused = document.activeElement && document.activeElement.textContent, pin = text.split(" ")[0]; list(); views.forEach(show); say(text); refocus(pin, focused); }
  function refocus(pin, text) {
    var group = Array.prototype.find.call(document.querySelectorAll(".choose"), function (own) { return own.ariaLabel === pin; });
    var button = group && Array.prototype.find.call(group.children, function (own) { return own.textContent === text; });
    if (button) { button.focus(); }
  }
  function trouble(text) { $("trouble").hidden = !text; $("trouble").textContent = text ? "The board cannot be used as it is now; what is shown is the last good one.\n" + text : ""; }

  // Going to a page.
  function go(path, from) {
    at = path;
    history.replaceState(null, "", "#" + at);
    $("page").value = at;
    document.title = at + " · Preview";
    $("alone").href = encoded(at);
    views.forEach(function (view) { if (view !== from || !view.isPlain && !choice(false)) { show(view); } else { view.shown = ""; show(view); } });
    return facts();
  }
  function facts() {
    var asked = at;
    return get("page?page=" + encodeURIComponent(at.split("?")[0])).then(function (data) {
      if (asked !== at) { return; }
      page = data;
      list();
      views.forEach(show);
      views.forEach(outline);
    }, function () { page = { pins: [], findings: [] }; list(); });
  }
  function step(by) {
    var number = site.pages.findIndex(function (own) { return own.path === at; });
    var next = site.pages[(number + by + site.pages.length) % site.pages.length];
    if (next) { go(next.path); }
  }
  function learn() {
    return get("site").then(function (data) {
      site = data;
      $("paths").replaceChildren.apply($("paths"), site.pages.map(function (own) { return make("option", { value: own.path, label: own.path + (own.pins ? "  " + own.pins + (own.pins === 1 ? " pin" : " pins") : "") }); }));
      trouble(site.trouble);
      $("brand").title = site.name + (site.of ? " on " + site.of : "");
      if (!location.hash && !site.of && site.pages.length && !site.pages.some(function (own) { return own.path === at; })) { at = site.pages[0].path; }
    });
  }

  // Changes: this page listens for all views.
  var channel = new BroadcastChannel(folder);
  function news(own) {
    // What happened while nobody listened shows in the number of the board's reading.
    if (own.opened) {
      var number = site.number;
      get("site").then(function (now) { if (now.number !== number) { news({ board: true, files: [] }); } else { trouble(now.trouble); facts(); } });
      return;
    }
    if (own.trouble) { trouble(own.trouble); say("The board cannot be used as it is now"); return; }
    if (own.board || own.files.length) { trouble(""); learn(); }
    if (site.plain && (own.board || own.files.length)) { views.forEach(function (view) { var inside = reach(view); if (inside) { inside.location.reload(); } }); }
    facts().then(function () { if (own.findings) { say("The check has ended"); } });
  }
  channel.onmessage = function (event) { news(event.data); };
  function listen() {
    return new Promise(function () {
      var events = new EventSource(folder + "events");
      function tell(own) { channel.postMessage(own); news(own); }
      events.onopen = function () { tell({ opened: true, files: [] }); };
      events.onmessage = function (event) { tell(JSON.parse(event.data)); };
    });
  }
  if (navigator.locks) { navigator.locks.request(folder, listen); } else { listen(); }

  function keys(event) {
    var inField = event.target.closest && event.target.closest("input:not([type=checkbox]), textarea, select, [contenteditable]");
    if (inField || event.ctrlKey || event.metaKey || event.altKey) { return; }
    if (event.key === "[") { step(-1); } else if (event.key === "]") { step(1); }
    else if (event.key === "p") { $("plain").click(); } else if (event.key === "o") { $("outline").click(); }
    else if (event.key === "0") { off.clear(); switched("all pins are on"); }
    else if (/^[1-9]$/.test(event.key)) {
      var pin = page.pins[event.key - 1];
      if (!pin || pin.off || !pin.here) { return; }
      if (off.has(pin.name)) { off.delete(pin.name); switched(pin.name + " is on"); } else { off.add(pin.name); switched(pin.name + " is off"); }
    } else { return; }
    event.preventDefault();
  }
  addEventListener("keydown", keys);
  addEventListener("resize", fit);
  addEventListener("hashchange", function () { var wanted = decodeURIComponent(location.hash.slice(1)); if (wanted && wanted !== at) { go(wanted); } });

  kept.widths.forEach(function (row) {
    var box = make("input", { type: "checkbox", checked: row[1], ariaLabel: row[0] + " pixels wide" });
    var number = make("input", { type: "number", value: row[0], min: 200, max: 3840, ariaLabel: "width in pixels" });
    box.addEventListener("change", function () { row[1] = box.checked; keep(); draw(); });
    number.addEventListener("change", function () { row[0] = Math.min(3840, Math.max(200, Math.round(+number.value) || row[0])); number.value = row[0]; keep(); draw(); });
    $("widths").append(make("span", {}, [box, number]));
  });
  ["plain", "outline"].forEach(function (own) {
    $(own).checked = kept[own];
    $(own).addEventListener("change", function () { kept[own] = $(own).checked; keep(); draw(); views.forEach(outline); });
  });
  $("all").addEventListener("click", function (event) {
    var wanted = event.target.dataset.all;
    if (!wanted) { return; }
    page.pins.forEach(function (pin) { if (wanted === "on") { off.delete(pin.name); } else { off.add(pin.name); } });
    switched("all pins are " + wanted);
  });
  $("pages").addEventListener("submit", function (event) { event.preventDefault(); go($("page").value.trim() || "/"); });
  $("page").addEventListener("change", function () { go($("page").value.trim() || "/"); });
  $("back").addEventListener("click", function () { step(-1); });
  $("next").addEventListener("click", function () { step(1); });
  learn().then(function () { draw(); return go(at); }).then(function () { news({ opened: true }); });
})();
