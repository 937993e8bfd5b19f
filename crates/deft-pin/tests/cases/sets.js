// A small stand-in for a library of sets of elements: as much of it as the cases call.
(function (window, document) {
  function Set(list) { Array.prototype.push.apply(this, list); this.length = this.length || 0 }
  var jQuery = function (what, more) {
    if (typeof what === "function") { document.readyState === "loading" ? document.addEventListener("DOMContentLoaded", function () { what(jQuery) }) : setTimeout(what, 0, jQuery); return new Set([]) }
    if (what instanceof Set) return what;
    if (typeof what === "string" && what.trim()[0] === "<") {
      var box = document.createElement("div"); box.innerHTML = what; var made = new Set(Array.from(box.children));
      for (var key in more || {}) key === "text" ? made[0].textContent = more.text : made[0].setAttribute(key, more[key]);
      return made;
    }
    if (typeof what === "string") return new Set(Array.from((more || document).querySelectorAll(what)));
    return new Set(what ? [what] : []);
  };
  var fn = jQuery.fn = Set.prototype;
  fn.each = function (f) { for (var i = 0; i < this.length; i++) f.call(this[i], i, this[i]); return this };
  fn.get = function (i) { return this[i] };
  fn.first = function () { return new Set(this[0] ? [this[0]] : []) };
  fn.find = function (s) { return new Set(this[0] ? Array.from(this[0].querySelectorAll(s)) : []) };
  fn.next = function () { return new Set(this[0] && this[0].nextElementSibling ? [this[0].nextElementSibling] : []) };
  fn.parent = function () { return new Set(this[0] ? [this[0].parentNode] : []) };
  fn.on = function (e, s, f) { var g = f || s; return this.each(function () { var el = this; e.split(" ").forEach(function (n) { el.addEventListener(n, g) }) }) };
  "click focus blur change submit".split(" ").forEach(function (n) { fn[n] = function (f) { return f ? this.on(n, f) : this } });
  "hide show fadeIn fadeOut slideToggle slideUp animate stop trigger off".split(" ").forEach(function (n) { fn[n] = function () { return this } });
  fn.addClass = function (c) { return this.each(function () { this.classList.add(c) }) };
  fn.removeClass = function (c) { return this.each(function () { this.classList.remove(c) }) };
  fn.toggleClass = function (c) { return this.each(function () { this.classList.toggle(c) }) };
  fn.text = function (t) { return t === undefined ? (this[0] || {}).textContent : this.each(function () { this.textContent = t }) };
  fn.html = function (t) { return t === undefined ? (this[0] || {}).innerHTML : this.each(function () { this.innerHTML = t }) };
  fn.val = function () { return this[0] ? this[0].value : undefined };
  fn.attr = function (n, v) { return v === undefined ? this[0] && this[0].getAttribute(n) : this.each(function () { this.setAttribute(n, v) }) };
  fn.append = function (h) { return this.each(function () { this.insertAdjacentHTML("beforeend", h) }) };
  fn.appendTo = function (s) { document.querySelector(s).append(this[0]); return this };
  fn.offset = function () { return this[0] ? { top: 0, left: 0 } : undefined };
  fn.width = fn.scrollTop = function () { return 0 };
  fn.ready = function (f) { jQuery(f); return this };
  jQuery.noConflict = function () { if (window.$ === jQuery) window.$ = undefined; return jQuery };
  jQuery.each = function (list, f) { Array.from(list).forEach(function (v, i) { f.call(v, i, v) }) };
  jQuery.get = jQuery.ajax = function () { return { fail: function () { return this }, done: function () { return this } } };
  window.jQuery = window.$ = jQuery;
})(window, document);
