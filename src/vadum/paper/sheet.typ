// Page one is the report: sample, method, the result large, the picture large, what each row came to, what to watch.
// The annex is the record: kit, long tables, the rules that hold, working, corrections.
#let s = json("sheet.json")
#let ink = rgb("#1d2a2c")
#let ink2 = rgb("#4a585d")
#let water = rgb("#1b6670")
#let paper = rgb("#d8d2c2")
#let tone = (stop: rgb("#9a1b2c"), redo: rgb("#8f3d7a"), watch: rgb("#8a6100"), fine: rgb("#3d6b35"))
#let sign = (stop: "■", redo: "▲", watch: "◗", fine: "✓")
#set document(title: s.code + " " + s.title, date: none)
#set page(
  paper: "a4", margin: (x: 15mm, top: 13mm, bottom: 17mm),
  footer: context [
    #set text(6.5pt, fill: ink2)
    #s.always It holds for the specimen that was tested alone, and is passed on whole. #linebreak()
    Tape #raw(s.tape.slice(0, 16)) · ledger #raw(s.ledger) · printed #s.printed #h(1fr) #if s.number != "" [sheet #s.number] else [draft of #s.code], page #counter(page).display() of #counter(page).final().at(0)
  ],
)
#set text(font: ("IBM Plex Sans",), size: 9pt, lang: "en", fill: ink)
#set par(leading: 0.55em)
#let sym(name) = { let p = name.split("_"); if p.len() > 1 [#p.at(0)#sub(p.slice(1).join(" "))] else [#name] }
#show raw: set text(font: "IBM Plex Sans", size: 6.5pt)
#show math.equation: set text(size: 9pt)
#let small(body) = text(size: 8pt, fill: ink2, body)
#let rule = line(length: 100%, stroke: 0.5pt + paper)
#show heading: it => block(above: 3mm, below: 1.3mm, text(size: 9pt, weight: "semibold", fill: water, it.body))
#let head = s.letterhead
#if head.name != "" or head.mark != "" [
  #grid(columns: (auto, 1fr, auto), gutter: 4mm, align: horizon,
    if head.mark != "" [#image(head.mark, height: 12mm, width: 40mm, fit: "contain", alt: "mark of the laboratory")],
    [#text(size: 10pt, weight: "semibold", head.name) #linebreak() #small(head.lines.join(" · "))],
    if head.accredited [#align(right)[
      #if head.accreditation_mark != "" [#image(head.accreditation_mark, height: 11mm, width: 30mm, fit: "contain", alt: "mark of the accreditation") #linebreak()]
      #small(head.accreditation)]] else if head.accreditation != "" [#align(right, small[This test is not within the accreditation.])])
  #v(2mm)
]
#grid(columns: (1fr, auto), align: bottom,
  text(size: 17pt, weight: "semibold")[#s.title],
  align(right)[#text(size: 11pt, weight: "semibold", if s.number != "" { s.number } else { s.code + ", draft" }) #linebreak()
    #text(size: 8.5pt, weight: "semibold", fill: if s.mark == "" { water } else { rgb("#b24a1f") })[#if s.mark == "" { "Signed and checked" } else { s.mark }]])
#small[#s.standard. #s.school.]
#if s.replaces != "" [#linebreak() #text(size: 8.5pt, weight: "semibold", s.replaces)]
#line(length: 100%, stroke: 0.8pt + water)
#let facts(pairs) = grid(columns: (20mm, 1fr, 24mm, 1fr), row-gutter: 1.8mm, column-gutter: 2mm,
  ..pairs.map(p => (small(p.at(0)), p.at(1))).flatten())
#if s.units != "" [#small(s.units)]
#facts((..s.client, ("job", s.job), ("spot", s.spot), ("sample", s.sample), ("begun", s.started), ..s.specimen))
#rule
// Two columns side by side, the first half of a list and the second.
#let halves(items) = { let half = calc.ceil(items.len() / 2); grid(columns: (1fr, 1fr), gutter: 6mm,
  items.slice(0, half).join(), items.slice(half).join()) }
#let leads = s.values.filter(v => v.leads)
#let rest = s.values.filter(v => not v.leads)
#let value(v, size) = [#text(size: size, weight: "semibold", v.reported) #v.unit #small[#v.scatter #if not v.withheld { v.qualified }]]
#let first = leads.at(0, default: none)
#grid(columns: (auto, 1fr), gutter: 9mm, align: bottom,
  if first != none [#small[#first.name #sym(first.symbol)] #linebreak() #value(first, if first.sentence { 12pt } else { 30pt })],
  grid(columns: 1, row-gutter: 2mm, ..leads.slice(calc.min(1, leads.len())).map(v => [#small[#v.name #sym(v.symbol)] #h(2mm) #value(v, if v.sentence { 10pt } else { 14pt })])))
#if s.missing.len() > 0 [#small[Still missing: #s.missing.map(m => m.name + ": " + m.waits_for).join("; ").]]
#if s.drawn { layout(room => {
  let drawn = measure(image("chart.svg"))
  // Pictures that stand above each other need the page's height.
  let most = if drawn.height > drawn.width { 118mm } else { 74mm }
  let high = calc.min(most, room.width * (drawn.height / drawn.width))
  image("chart.svg", width: 100%, height: high, fit: "contain", alt: s.chart_title)
}) }
#rule
#let LONG = 18
#let readings(t) = [
  == #upper(t.title.first())#t.title.slice(1)
  #set text(size: 8pt)
  #table(columns: t.head.len(), stroke: (x, y) => (bottom: 0.3pt + paper), inset: (x: 2.5pt, y: 2.2pt), align: right,
    table.header(..t.head.map(h => small(h))),
    ..t.rows.map(r => r.enumerate().map(((i, c)) => if i >= r.len() - t.derived { strong(c) } else { c })).flatten())
]
#let WIDE = 9
#for t in s.tables.filter(t => t.rows.len() <= LONG and t.head.len() > WIDE) { readings(t) }
#grid(columns: (1fr, 62mm), gutter: 8mm,
  [
    #for t in s.tables.filter(t => t.rows.len() <= LONG and t.head.len() <= WIDE) { readings(t) }
    #if rest.len() > 0 [
      == Further values
      #set text(size: 8pt)
      #table(columns: (1fr, auto, auto), stroke: (x, y) => (bottom: 0.3pt + paper), inset: (x: 1pt, y: 2.4pt), align: (left, right, left),
        ..rest.map(v => if v.sentence { (table.cell(colspan: 3, align: left)[#v.name: #text(weight: "medium", v.reported)],) } else {
          ([#v.name #small(sym(v.symbol))], strong(v.reported), [#v.unit #small[#v.scatter #if not v.withheld { v.qualified }]]) }).flatten())
    ]
  ],
  [
    #if s.asks.len() > 0 [
      == To be known
      #set text(size: 8pt)
      #for v in s.asks [#block(below: 1.8mm)[#text(fill: tone.at(v.level), weight: "semibold")[#sign.at(v.level) #v.level] *#v.found* #small[(#v.limit)] #v.remedy]]
    ]
    #if s.assumed.len() > 0 [
      == Taken, not measured
      #set text(size: 8pt)
      #for a in s.assumed [#block(below: 1.4mm, a)]
    ]
    #small[#s.held.len() more rules hold: annex.]
    #if s.remarks != "" [== Remarks
      #set text(size: 8pt)
      #s.remarks]
  ])
#v(1fr)
#grid(columns: s.people.slice(0, calc.min(3, s.people.len())).map(_ => 1fr), gutter: 6mm,
  ..s.people.slice(0, calc.min(3, s.people.len())).map(p => block(width: 100%, above: 6mm)[#line(length: 100%, stroke: 0.5pt + ink2) #small(p.at(0)) #linebreak() #text(size: 8pt, p.at(1))]))
#small[#s.limits_of_use]
#pagebreak(weak: true)
#text(size: 12pt, weight: "semibold")[Annex: the record] #small[#if s.number != "" { s.number } else { s.code } #s.title]
#rule
#grid(columns: (1fr, 1fr), gutter: 6mm, ..s.tables.filter(t => t.rows.len() > LONG).map(readings))
#if s.facts.len() > 0 [
  == Kit and readings
  #set text(size: 8pt)
  #grid(columns: (38mm, 1fr, 38mm, 1fr), row-gutter: 1.5mm, column-gutter: 2mm, ..s.facts.map(f => (small(f.at(0)), f.at(1))).flatten())
]
#if s.held.len() > 0 [
  == #s.held.len() rules hold
  #set text(size: 7.5pt)
  #halves(s.held.map(v => block(below: 1.1mm)[#text(fill: tone.fine)[✓] #v.rule: #v.found #small[(#v.limit#";" #v.source)]]))
]
#if s.working.len() > 0 [
  == Working
  #set text(size: 8pt)
  #halves(s.working.map(w => block(below: 2.4mm, breakable: false)[#eval(w.typst, mode: "math") #if w.numbers != "" [#small[\= #w.numbers]] \= *#w.result* #small[#h(1mm) #w.source#if w.note != "" [#";" #w.note]]]))
]
#if s.corrections.len() > 0 [
  == Corrections
  #set text(size: 8pt)
  #for c in s.corrections [#small(c.place) was #strike(c.was), struck by #c.by: #c.reason \ ]
]
#if s.people.len() > 3 [
  == Also
  #facts(s.people.slice(3))
]
#if s.photographs.len() > 0 [
  == Photographs
  #set text(size: 8pt)
  #grid(columns: (1fr, 1fr), gutter: 5mm, ..s.photographs.map(p => block(breakable: false)[#image(p.hash + ".jpg", width: 100%, alt: "photograph " + str(p.number) + " of " + p.of) #strong(str(p.number)) #p.of#if p.caption != "" [: #p.caption]]))
]
#if s.left_off != "" [#small(s.left_off)]
#v(4mm)
#align(center, small[End of sheet #if s.number != "" { s.number } else { s.code }])
