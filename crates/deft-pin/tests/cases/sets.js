// A small stand-in for a library of sets of elements: as much of it as the cases call.
(function (window, document) {
  function Set(list) { Array.prototype.push.apply(this, list); this.length = this.length || 0 }
  var jQuery = function (what, more) {
    if (typeof what === "function") { document.readyState === "loading" ? document.addEventListener("DOMContentLoaded", function () { what(jQuery) }) : setTimeout(what, 0, jQuery); return new Set([]) }
    if (what instanceof Set) return what;
    if (what && typeof what === "object" && !what.nodeType && what !== window) return new Set(Array.from(what));
    if (typeof what === "string" && what.trim()[0] === "<") {
      var box = document.createElement("template"); box.innerHTML = what.trim(); var made = new Set(Array.from(document.importNode(box.content, true).children));
      for (var key in more || {}) key === "text" ? (made[0].textContent = more.text) : made[0].setAttribute(key, more[key]);
      return made;
    }
    if (typeof what === "string") return new Set(Array.from((more || document).querySelectorAll(what)));
    return new Set(what ? [what] : []);
  };
  var fn = jQuery.fn = Set.prototype;
  fn.each = function (f) { for (var i = 0; i < this.length; i++) f.call(this[i], i, this[i]); return this };
  var all = function (list) { return new Set(list.filter(function (el, i) { return el && list.indexOf(el) === i })) };
  var to = function (name, lead) { fn[name] = function (s) { var out = []; this.each(function () { out = out.concat(Array.from(lead(this, s) || [])) }); return all(out.filter(function (el) { return !s || name === "find" || name === "closest" || el.matches(s) })) } };
  var row = function (el, way) { var out = []; while ((el = el[way])) out.push(el); return out };
  fn.get = function (i) { return i === undefined ? Array.from(this) : this[i] };
  fn.eq = function (i) { return all([this[i < 0 ? this.length + i : i]]) };
  fn.first = function () { return this.eq(0) };
  fn.last = function () { return this.eq(-1) };
  fn.filter = function (s) { return all(Array.from(this).filter(function (el) { return el.matches(s) })) };
  fn.not = function (s) { return all(Array.from(this).filter(function (el) { return !el.matches(s) })) };
  fn.is = function (s) { return this.filter(s).length > 0 };
  fn.hasClass = function (c) { return this.is("." + c) };
  fn.map = function (f) { return new Set(Array.from(this).map(function (el, i) { return f.call(el, i, el) })) };
  to("find", function (el, s) { return el.querySelectorAll(s) });
  to("closest", function (el, s) { return [el.closest(s)] });
  to("children", function (el) { return el.children });
  to("parent", function (el) { return [el.parentElement] });
  to("parents", function (el) { return row(el, "parentElement") });
  to("next", function (el) { return row(el, "nextElementSibling").slice(0, 1) });
  to("prev", function (el) { return row(el, "previousElementSibling").slice(0, 1) });
  to("siblings", function (el) { return Array.from(el.parentElement.children).filter(function (own) { return own !== el }) });
  fn.on = function (e, s, f) { var g = f || s; return this.each(function () { var el = this; e.split(" ").forEach(function (n) { el.addEventListener(n, g) }) }) };
  "click focus blur change submit scroll".split(" ").forEach(function (n) { fn[n] = function (f) { return f ? this.on(n, f) : this } });
  "hide show fadeIn fadeOut slideToggle slideUp animate stop trigger off".split(" ").forEach(function (n) { fn[n] = function () { return this } });
  fn.addClass = function (c) { return this.each(function () { this.classList.add(c) }) };
  fn.removeClass = function (c) { return this.each(function () { this.classList.remove(c) }) };
  fn.toggleClass = function (c) { return this.each(function () { this.classList.toggle(c) }) };
  fn.text = function (t) { return t === undefined ? (this[0] || {}).textContent : this.each(function () { this.textContent = t }) };
  fn.html = function (t) { return t === undefined ? (this[0] || {}).innerHTML : this.each(function () { this.innerHTML = t }) };
  fn.val = function (v) { var el = this[0]; return v === undefined ? el && (el.selectedIndex < 0 ? null : el.value) : this.each(function () { this.value = v }) };
  fn.attr = function (n, v) { return v === undefined ? this[0] && this[0].getAttribute(n) : this.each(function () { this.setAttribute(n, v) }) };
  var nodes = function (what) { return typeof what === "string" && what.trim()[0] !== "<" ? [document.createTextNode(what)] : Array.from(jQuery(what)) };
  ["append", "prepend", "before", "after", "replaceWith"].forEach(function (way) {
    fn[way] = function (what) { var own = nodes(what), last = this.length - 1; return this.each(function (i) { this[way].apply(this, i === last ? own : own.map(function (n) { return n.cloneNode(true) })) }) };
  });
  [["appendTo", "append"], ["prependTo", "prepend"], ["insertBefore", "before"], ["insertAfter", "after"]].forEach(function (pair) { fn[pair[0]] = function (s) { jQuery(s)[pair[1]](this); return this } });
  fn.remove = fn.detach = function () { return this.each(function () { this.remove() }) };
  fn.empty = function () { return this.each(function () { this.replaceChildren() }) };
  fn.clone = function () { return new Set(Array.from(this).map(function (el) { return el.cloneNode(true) })) };
  fn.position = function () { return this.offset() };
  fn.offset = function () { return this[0] ? { top: 0, left: 0 } : undefined };
  fn.width = fn.scrollTop = function () { return 0 };
  fn.ready = function (f) { jQuery(f); return this };
  jQuery.noConflict = function () { if (window.$ === jQuery) window.$ = undefined; return jQuery };
  jQuery.each = function (list, f) { Array.from(list).forEach(function (v, i) { f.call(v, i, v) }) };
  jQuery.get = jQuery.ajax = function () { return { fail: function () { return this }, done: function () { return this } } };
  window.jQuery = window.$ = jQuery;
})(window, document);
