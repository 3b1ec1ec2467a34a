#let s = json("sheet.json")
#let ink2 = rgb("#4a585d")
#let water = rgb("#1b6670")
#let tone = (stop: rgb("#9a1b2c"), redo: rgb("#8f3d7a"), watch: rgb("#8a6100"), fine: rgb("#3d6b35"))
#let sign = (stop: "■", redo: "▲", watch: "◗", fine: "✓")
#set document(title: s.code + " " + s.title, date: none)
#set page(
  paper: "a4", margin: (x: 15mm, top: 13mm, bottom: 17mm),
  footer: context [
    #set text(6.5pt, fill: ink2)
    #s.always #linebreak()
    Tape #raw(s.tape.slice(0, 16)) · ledger #raw(s.ledger) · printed #s.printed #h(1fr) #s.code, page #counter(page).display() of #counter(page).final().at(0)
  ],
)
#set text(font: ("IBM Plex Sans",), size: 9pt, lang: "en")
#set par(leading: 0.58em)
#let sym(name) = { let p = name.split("_"); if p.len() > 1 [#p.at(0)#sub(p.slice(1).join(" "))] else [#name] }
#show raw: set text(font: "IBM Plex Sans", size: 6.5pt)
#let small(body) = text(size: 8pt, fill: ink2, body)
#show heading: it => block(above: 2.6mm, below: 1.3mm, text(size: 9pt, weight: "semibold", fill: water, it.body))
#grid(columns: (1fr, auto), align: bottom,
  text(size: 16pt, weight: "semibold")[#s.code #s.title],
  text(size: 9pt, weight: "semibold", fill: if s.mark == "" { water } else { rgb("#b24a1f") })[#if s.mark == "" { "Signed and checked" } else { s.mark }])
#line(length: 100%, stroke: 0.8pt + water)
#grid(columns: (16mm, 1fr, 16mm, 1fr), row-gutter: 2mm,
  small[job], s.job, small[school], s.school,
  small[spot], s.spot, small[rules], s.standard,
  small[sample], s.sample, small[begun], s.started)
#let LONG = 16
#let readings(t) = [
  == #upper(t.title.first())#t.title.slice(1)
  #set text(size: 8pt)
  #table(columns: t.head.len(), stroke: (x, y) => (bottom: 0.3pt + gray), inset: (x: 2.5pt, y: 2.6pt), align: right,
    table.header(..t.head.map(h => small(h))), ..t.rows.flatten())
]
#grid(columns: (96mm, 1fr), gutter: 6mm,
  [
    == Values
    #table(columns: (1fr, auto, auto), stroke: (x, y) => (bottom: 0.3pt + gray), inset: (x: 1pt, y: 4pt), align: (left, right, left),
      ..s.values.map(v => if v.sentence {
        // A sentence, such as which ratio governs, takes the whole row.
        (table.cell(colspan: 3, align: left)[#v.name: #text(weight: "medium", v.reported)],)
      } else { (
        [#v.name #small(sym(v.symbol))],
        text(size: 12pt, weight: "semibold", v.reported),
        [#v.unit #small[#v.scatter #if not v.withheld { v.qualified }]],
      ) }).flatten())
    #if s.missing.len() > 0 [#small[Still missing: #s.missing.map(m => m.name + ": " + m.waits_for).join("; ").]]
    #for t in s.tables.filter(t => t.rows.len() <= LONG) { readings(t) }
  ],
  [
    == #s.chart_title
    #image("chart.svg", width: 100%, alt: s.chart_title)
  ])
// Long tables, such as both ends of a mould, stand beside each other.
#grid(columns: (1fr, 1fr), gutter: 6mm, ..s.tables.filter(t => t.rows.len() > LONG).map(readings))
#grid(columns: (1fr, 1fr), gutter: 6mm,
  [
    == Rules checked
    #set text(size: 8pt)
    #for v in s.verdicts [
      #text(fill: tone.at(v.level), weight: "semibold")[#sign.at(v.level) #v.level] #v.rule: #v.found #small[(#v.limit#";" #v.source)] #if v.remedy != "" [#text(style: "normal", weight: "medium", v.remedy)] \
    ]
    == Kit and conditions
    #set text(size: 8pt)
    #grid(columns: (38mm, 1fr), row-gutter: 1.6mm, ..s.facts.map(f => (small(f.at(0)), f.at(1))).flatten())
  ],
  [
    == Working
    #set text(size: 8pt)
    #for w in s.working [
      *#sym(w.symbol)* = #w.numbers = *#w.result* #small[#w.source#if w.note != "" [#";" #w.note]] \
    ]
    #if s.corrections.len() > 0 [
      == Corrections
      #set text(size: 8pt)
      #for c in s.corrections [#small(c.path) was #strike(c.was), struck by #c.by: #c.reason \ ]
    ]
  ])
== People
#grid(columns: (18mm, 1fr, 18mm, 1fr), row-gutter: 2mm, ..s.people.map(p => (small(p.at(0)), p.at(1))).flatten())
#if s.remarks != "" [== Remarks
  #s.remarks]
== Limits of use
#small(s.limits_of_use)
