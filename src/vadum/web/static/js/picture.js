// A picture as it leaves this device: upright, bounded; what the camera wrote into it besides stays behind.
const MOST_PX = 1600;
const QUALITY = 0.82;

export async function small(file) {
  const picture = await createImageBitmap(file);
  const scale = Math.min(1, MOST_PX / Math.max(picture.width, picture.height));
  const canvas = document.createElement("canvas");
  canvas.width = Math.max(1, Math.round(picture.width * scale));
  canvas.height = Math.max(1, Math.round(picture.height * scale));
  const pen = canvas.getContext("2d");
  pen.fillStyle = "white";
  pen.fillRect(0, 0, canvas.width, canvas.height);
  pen.drawImage(picture, 0, 0, canvas.width, canvas.height);
  return canvas.toDataURL("image/jpeg", QUALITY);
}
