// Keyboard map, dialogs and the drawer. Small on purpose: pages work without it.
(function () {
  "use strict";

  function all(selector) {
    return Array.from(document.querySelectorAll(selector)).filter(function (one) {
      return one.checkVisibility();  // not so inside a folded part
    });
  }

  // Focus the next match after the focused element, from the top again at the end.
  function next(selector) {
    var found = all(selector);
    if (!found.length) return;
    var here = document.activeElement;
    var at = found.findIndex(function (one) {
      return one === here || one.contains(here);
    });
    var goal = found[(at + 1) % found.length];
    goal.focus();
    goal.scrollIntoView({ block: "nearest" });
  }

  function closeDrawer() {
    var drawer = document.getElementById("drawer");
    if (!drawer || !drawer.firstElementChild) return false;
    var slot = drawer.firstElementChild.dataset.slot;
    drawer.replaceChildren();
    var opener = document.querySelector('[data-change="' + slot + '"]');
    if (opener) opener.focus();
    return true;
  }

  // The option before or after the one that is shown.
  function option(steps) {
    var found = Array.from(document.querySelectorAll("[data-option]"));
    var here = found.findIndex(function (one) { return one.dataset.option === "here"; });
    if (here >= 0) found[(here + steps + found.length) % found.length].click();
  }

  var keys = {
    "[": function () { option(-1); },
    "]": function () { option(1); },
    "/": function () { next('[data-key="/"]'); },
    n: function () { next('.finding:not([data-verdict="goes"])'); },
    m: function () { next("[data-measure]"); },
    c: function () { next("[data-change]"); },
    u: function () {
      var button = document.querySelector("[data-undo]");
      if (button) button.click();
    },
    j: function () { next(".joint-mark"); },
    w: function () {
      var near = document.activeElement.closest(".finding") || document;
      var where = near.querySelector("details.where");
      if (where) where.open = !where.open;
    },
    "?": function () { document.getElementById("keymap").showModal(); }
  };

  // On the drawing the arrow keys go to the nearest mark in their direction.
  var ways = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

  function middle(one) {
    var box = one.getBoundingClientRect();
    return [box.left + box.width / 2, box.top + box.height / 2];
  }

  function step(mark, way) {
    var here = middle(mark), best = null, least = Infinity;
    document.querySelectorAll(".joint-mark").forEach(function (one) {
      var there = middle(one), dx = there[0] - here[0], dy = there[1] - here[1];
      var along = dx * way[0] + dy * way[1];
      if (one === mark || along <= 0) return;
      var far = along + 3 * Math.abs(dx * way[1] + dy * way[0]);
      if (far < least) { least = far; best = one; }
    });
    if (best) best.focus();
  }

  document.addEventListener("keydown", function (event) {
    var mark = event.target.closest(".joint-mark");
    if (mark && ways[event.key]) {
      event.preventDefault();
      step(mark, ways[event.key]);
    }
  });

  // A finger that lands beside a mark means the nearest one: each has 44 px and more around it.
  var NEAR = 26;
  document.addEventListener("click", function (event) {
    var drawing = event.target.closest(".side-view svg");
    if (!drawing || event.target.closest(".joint-mark")) return;
    var best = null, least = NEAR;
    drawing.querySelectorAll(".joint-mark").forEach(function (one) {
      var there = middle(one), far = Math.hypot(there[0] - event.clientX, there[1] - event.clientY);
      if (far <= least) { least = far; best = one; }
    });
    if (best) best.dispatchEvent(new MouseEvent("click", { bubbles: true, cancelable: true }));
  });

  // A pass of a bolt's turns is done: its stroke fills, and what is left is told.
  function fill(pass) {
    pass.dataset.done = "";
    var all = pass.parentElement.querySelectorAll("[data-pass]"), left = pass.parentElement.querySelector("[data-left]");
    var done = pass.parentElement.querySelectorAll("[data-done]").length;
    left.textContent = done + " of " + all.length + (done < all.length ? ", alternate" : ", all done");
  }
  document.addEventListener("click", function (event) {
    var strokes = event.target.closest(".passes");
    var pass = strokes && strokes.querySelector("[data-pass]:not([data-done])");
    if (pass) fill(pass);
  });

  document.addEventListener("keydown", function (event) {
    if (event.ctrlKey || event.altKey || event.metaKey) return;
    var typing = event.target.closest("input, textarea, select");
    if (event.key === "Escape") {
      if (document.querySelector("dialog[open]")) return;
      if (typing && !typing.closest("#drawer")) typing.blur();
      else if (!closeDrawer()) {
        var back = document.querySelector("[data-joint-back]");
        if (back) back.click();
      }
      return;
    }
    var button = event.target.closest("button, a, summary");
    if (event.key === " " && !typing && !button) {  // a pedal on the floor sends the space bar
      var pass = document.querySelector("[data-pass]:not([data-done])");
      var on = document.querySelector("[data-next]");
      if (pass || on) event.preventDefault();
      if (pass) fill(pass);
      else if (on) on.click();
      return;
    }
    var result = !typing && /^[1-9]$/.test(event.key) && all("[data-result]")[event.key - 1];
    if (result) result.click();  // a check's results, by their numbers
    if (typing || !keys[event.key]) return;
    event.preventDefault();
    keys[event.key]();
  });

  document.addEventListener("click", function (event) {
    var opener = event.target.closest("[data-opens]");
    if (opener) document.getElementById(opener.dataset.opens).showModal();
    if (event.target.closest("[data-closes-drawer]")) {
      event.preventDefault();
      closeDrawer();
    }
  });

  document.addEventListener("htmx:beforeRequest", function () {
    var told = document.getElementById("told");
    if (told) told.replaceChildren();
  });

  document.addEventListener("htmx:responseError", function () {
    document.getElementById("told").textContent =
      "The server did not answer as it should. Nothing was lost; try again.";
  });

  document.addEventListener("htmx:sendError", function () {
    document.getElementById("told").textContent = "The server cannot be reached. Nothing was saved; try again.";
  });

  // An address that ends in a folded part opens it; in a field, the caret goes there.
  function unfold() {
    var part = location.hash && document.getElementById(location.hash.slice(1));
    if (part && part.tagName === "DETAILS") part.open = true;
    else if (part && part.matches("input, select")) part.focus();
  }
  unfold();
  window.addEventListener("hashchange", unfold);

  // A reading kept leaves the hand where it was: what was unfolded, the scroll, the next field to measure.
  var PLACE = "place";

  function foldName(one) {
    var title = one.querySelector("summary");
    return title ? title.textContent.replace(/[0-9]+/g, "").trim().slice(0, 60) : "";
  }

  function fields() { return Array.from(document.querySelectorAll("[data-measure]")); }

  document.addEventListener("submit", function (event) {
    if (!event.target.matches("form.measure, form.accept")) return;
    var field = event.target.querySelector("[data-measure]");
    sessionStorage.setItem(PLACE, JSON.stringify({
      path: location.pathname,
      top: window.scrollY,
      open: Array.from(document.querySelectorAll("main details[open]")).map(foldName),
      name: field ? field.id : "",
      at: field ? fields().indexOf(field) : -1
    }));
  });

  function comeBack() {
    var was = JSON.parse(sessionStorage.getItem(PLACE) || "null");
    sessionStorage.removeItem(PLACE);
    if (!was || was.path !== location.pathname || location.hash) return;
    document.querySelectorAll("main details:not([open])").forEach(function (one) {
      if (was.open.indexOf(foldName(one)) >= 0) one.open = true;
    });
    var field = was.name && document.getElementById(was.name) || fields()[was.at];
    if (field) field.focus({ preventScroll: true });
    window.scrollTo(0, was.top);
  }
  window.addEventListener("load", comeBack);

  // An electronic gear says what it knows of itself: each fact into its own field, kept by the hand.
  function fillFact(read) {
    var field = document.querySelector('[data-fact="' + read.fact + '"]');
    if (!field || !field.form) return;
    if (field.type === "checkbox") field.checked = read.value === 1; else field.value = read.typed;
    var name = field.form.querySelector("[data-instrument]");
    if (name) name.value = read.name;
  }

  // An instrument of the bench fills the field that holds the caret, as a hand would with number and Enter.
  function fromBench(event) {
    var read = JSON.parse(event.data), field = document.activeElement;
    if (read.fact) { fillFact(read); return; }
    if (!field || !field.matches("input[data-measure]") || !field.form) {
      document.getElementById("told").textContent =
        "The " + read.name + " reads " + read.typed + ". Put the caret into a field that takes a reading.";
      return;
    }
    field.value = read.typed;
    var name = field.form.querySelector("[data-instrument]");
    if (name) name.value = read.name;
    field.form.requestSubmit();
  }
  if (document.body.dataset.bridge && window.EventSource) {
    var bench = new EventSource(document.body.dataset.bridge);
    bench.onmessage = fromBench;
    bench.onopen = function () { document.body.dataset.listens = ""; };
    bench.onerror = function () { delete document.body.dataset.listens; };
  }

  // What waits tells how long still.
  function tellWaits() {
    document.querySelectorAll("[data-until]").forEach(function (one) {
      var left = Math.ceil((one.dataset.until * 1000 - Date.now()) / 60000);
      one.dataset.says = one.dataset.says || one.textContent;
      one.textContent = one.dataset.says + (left > 0 ? ", " + left + " min left" : ", over");
    });
  }
  tellWaits();
  setInterval(tellWaits, 20000);

  // A guide of a line is dragged to where it is on this bike; let go, it is kept there.
  var held = null;
  function placeOf(event, svg) {
    return new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
  }
  document.addEventListener("pointerdown", function (event) {
    var spot = event.target.closest("[data-lines-view] [data-handle]");
    if (!spot) return;
    held = spot;
    spot.setPointerCapture(event.pointerId);
    event.preventDefault();
  });
  document.addEventListener("pointermove", function (event) {
    if (!held) return;
    var at = placeOf(event, held.ownerSVGElement);
    held.setAttribute("cx", at.x);
    held.setAttribute("cy", at.y);
  });
  document.addEventListener("pointerup", function () {
    if (!held) return;
    var view = held.closest("[data-lines-view]").dataset.linesView.split(" ").map(Number);
    var form = document.getElementById("point-form"), name = held.dataset.handle.split(":");
    form.action = location.pathname.replace("work/lines/", "lines/" + name[0] + "/point/");
    form.elements.point.value = name[1];
    form.elements.forward_mm.value = (view[1] + (held.getAttribute("cx") - 34) / view[0]).toFixed(1);
    form.elements.up_mm.value = (view[2] - (held.getAttribute("cy") - 34) / view[0]).toFixed(1);
    held = null;
    form.submit();
  });

  // A changed plan keeps unfolded what was unfolded, and the hand at the slot it changed.
  var unfolded = [], changed = "";
  document.addEventListener("htmx:beforeSwap", function (event) {
    if (event.target.id !== "plan") return;
    var drawer = document.getElementById("drawer");
    changed = drawer && drawer.firstElementChild ? drawer.firstElementChild.dataset.slot : "";
    unfolded = Array.from(event.target.querySelectorAll("details[open]")).map(foldName);
  });
  document.addEventListener("htmx:afterSettle", function (event) {
    if (event.target.id !== "plan" || !unfolded.length) return;
    var names = unfolded;
    unfolded = [];
    document.querySelectorAll("#plan details:not([open])").forEach(function (one) {
      if (names.indexOf(foldName(one)) >= 0) one.open = true;
    });
    var opener = changed && document.querySelector('[data-change="' + changed + '"]');
    if (opener) opener.focus({ preventScroll: true });
  });

  // A fresh drawer takes the caret; a changed plan keeps it where the hand was.
  document.addEventListener("htmx:afterSwap", function (event) {
    if (event.target.id === "joint") {
      var title = event.target.querySelector("[data-joint-title]");
      document.querySelectorAll(".joint-mark").forEach(function (one) {
        var chosen = !!title && one.dataset.joint === title.dataset.jointTitle;
        one.classList.toggle("chosen", chosen);
        if (chosen) one.setAttribute("aria-current", "true"); else one.removeAttribute("aria-current");
      });
      var top = event.target.getBoundingClientRect().top;  // on a phone it stands below the drawing
      if (title && (top < 0 || top > window.innerHeight * 0.8)) event.target.scrollIntoView({ block: "start" });
      return;
    }
    if (event.target.id !== "drawer") return;
    var field = event.target.querySelector("[data-drawer-find]");
    if (field && !event.target.contains(document.activeElement)) field.focus();
  });
})();
