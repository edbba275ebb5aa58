// The fonts of the organisation: what is drawn with them says which they are, and load
// says where a file comes from.
const shown = new Map()

export async function showFaces(list, load) {
  const want = new Map(list.map(f => [`${f.family} ${f.id} ${f.weight} ${f.style}`, f]))
  for (const [key, face] of shown) {
    if (want.has(key)) continue
    document.fonts.delete(face)
    shown.delete(key)
  }
  for (const [key, f] of want) {
    if (shown.has(key)) continue
    const face = new FontFace(f.family, await load(f.id), { weight: f.weight, style: f.style })
    shown.set(key, face)
    document.fonts.add(face)
    await face.load()
  }
}
