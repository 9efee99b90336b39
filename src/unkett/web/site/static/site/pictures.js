// A picture from a phone is made smaller before it is sent: as large as it is kept, and no larger.
(function () {
  "use strict";
  var SIDE = 1600;  // pixels, as the server keeps it
  var SMALL = 400000;  // bytes that are sent as they are

  function shrink(input) {
    var file = input.files[0];
    if (!file || file.size <= SMALL || !window.createImageBitmap) return;
    input.setAttribute("aria-busy", "true");
    createImageBitmap(file, { imageOrientation: "from-image" }).then(function (picture) {
      var scale = Math.min(1, SIDE / Math.max(picture.width, picture.height));
      var canvas = document.createElement("canvas");
      canvas.width = Math.round(picture.width * scale);
      canvas.height = Math.round(picture.height * scale);
      canvas.getContext("2d").drawImage(picture, 0, 0, canvas.width, canvas.height);
      return new Promise(function (done) { canvas.toBlob(done, "image/jpeg", 0.85); });
    }).then(function (blob) {
      if (!blob || blob.size >= file.size || input.files[0] !== file) return;
      var sent = new DataTransfer();
      sent.items.add(new File([blob], file.name.replace(/\.\w+$/, "") + ".jpg", { type: "image/jpeg" }));
      input.files = sent.files;
    }).catch(function () {
      // what the browser cannot read is sent as it is; the server says what is wrong with it
    }).finally(function () {
      input.removeAttribute("aria-busy");
    });
  }

  document.addEventListener("change", function (event) {
    if (event.target.matches("input[type=file][accept^='image/']")) shrink(event.target);
  });
})();
