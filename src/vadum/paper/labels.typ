// Labels on a sheet: each at its own place, its code at the left, its words beside.
#let d = json("labels.json")
#let z = d.size
#set page(paper: z.paper, margin: 0mm)
#set text(font: ("IBM Plex Sans",), lang: "en", fill: rgb("#1d2a2c"))
#set par(leading: 0.4em)
#let per = z.across * z.down
#let sheets = calc.ceil((d.labels.last().at + 1) / per)
#let pad = 2.5mm
#let high = z.height * 1mm - 2 * pad
#let code = calc.min(high, 0.42 * z.width * 1mm)
#for n in range(sheets) {
  for l in d.labels.filter(l => calc.quo(l.at, per) == n) {
    let place_on = calc.rem(l.at, per)
    let column = calc.rem(place_on, z.across)
    let row = calc.quo(place_on, z.across)
    place(top + left, dx: (z.left + column * (z.width + z.gap_x)) * 1mm, dy: (z.top + row * (z.height + z.gap_y)) * 1mm,
      block(width: z.width * 1mm, height: z.height * 1mm, inset: pad, clip: true,
        grid(columns: (code, 1fr), gutter: 2mm, align: horizon,
          image(l.code, width: code, height: code),
          block(width: 100%)[
            #text(size: calc.min(22pt, high * 0.34), weight: "semibold", l.big)
            #for line in l.lines [#linebreak() #text(size: calc.min(9pt, high * 0.13), line)]
          ])))
  }
  if n < sheets - 1 { pagebreak() }
}
