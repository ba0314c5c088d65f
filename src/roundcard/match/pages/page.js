"use strict";
(function () {
  addEventListener("beforeprint", function () {
    document.querySelectorAll("details").forEach(function (each) { each.open = true; });
  });
  var data = document.getElementById("sheet");
  if (!data) { return; }
  var sheet = JSON.parse(data.textContent);
  var told = document.getElementById("decided");
  function chosen() {
    return document.querySelectorAll(".question input:checked:not([value=''])");
  }
  function tell() {
    var all = document.querySelectorAll(".question fieldset").length;
    told.textContent = chosen().length + " of " + all + " decided";
  }
  function cell(text) { return '"' + text.replace(/"/g, '""') + '"'; }
  function save() {
    var column = sheet.headings.indexOf("decision");
    var decisions = {};
    chosen().forEach(function (each) { decisions[each.name] = each.value; });
    var lines = [sheet.headings].concat(sheet.rows.map(function (row, at) {
      var copy = row.slice();
      if (decisions["q" + at]) { copy[column] = decisions["q" + at]; }
      return copy;
    }));
    var text = "\ufeff" + lines.map(function (line) { return line.map(cell).join(","); }).join("\r\n") + "\r\n";
    var link = document.createElement("a");
    link.href = URL.createObjectURL(new Blob([text], { type: "text/csv" }));
    link.download = sheet.name;
    document.body.appendChild(link);
    link.click();
    link.remove();
  }
  document.addEventListener("change", tell);
  document.getElementById("save").addEventListener("click", save);
  tell();
})();
