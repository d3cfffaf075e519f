/** The longer side of a kept photograph, in pixels: enough to read a screw, small enough for any disk. */
const PHOTO_PX = 1600;

/** A photograph made smaller before it is kept and sent. */
export async function smaller(file: Blob): Promise<Blob> {
  const image = await createImageBitmap(file);
  const scale = Math.min(1, PHOTO_PX / Math.max(image.width, image.height));
  const canvas = document.createElement('canvas');
  canvas.width = Math.round(image.width * scale);
  canvas.height = Math.round(image.height * scale);
  canvas.getContext('2d')?.drawImage(image, 0, 0, canvas.width, canvas.height);
  return new Promise((done, failed) =>
    canvas.toBlob((blob) => (blob ? done(blob) : failed(new Error('No picture came out.'))), 'image/jpeg', 0.85),
  );
}
