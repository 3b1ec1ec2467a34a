// The field slip: 80 mm of paper, as long as it gets; what was found on the spot, and that nobody has checked it.
#let s = json("sheet.json")
#let ink2 = rgb("#4a585d")
#set document(title: s.code + " field slip", date: none)
#set page(width: 80mm, height: auto, margin: (x: 4mm, top: 4mm, bottom: 6mm))
#set text(font: ("IBM Plex Sans",), size: 8pt, lang: "en")
#set par(leading: 0.5em)
#let small(body) = text(size: 7pt, fill: ink2, body)
#let rule = line(length: 100%, stroke: 0.5pt)
#let sym(name) = { let p = name.split("_"); if p.len() > 1 [#p.at(0)#sub(p.slice(1).join(" "))] else [#name] }
#if s.letterhead.name != "" [#small(s.letterhead.name) #linebreak()]
#text(size: 12pt, weight: "semibold", s.code) #h(1fr) #text(size: 10pt, weight: "bold", upper(s.slip_state))
#linebreak()
#text(weight: "semibold", s.title)
#linebreak()
#small[#s.standard. #s.school.]
#rule
#grid(columns: (16mm, 1fr), row-gutter: 1.2mm,
  ..(("job", s.job), ("spot", s.spot), ("sample", s.sample), ("begun", s.started), ("printed", s.printed)).map(p => (small(p.at(0)), p.at(1))).flatten())
#rule
#for v in s.values.filter(v => v.leads) [
  #small[#v.name #sym(v.symbol)] #linebreak()
  #text(size: 17pt, weight: "semibold", v.reported) #v.unit #small[#v.scatter #if not v.withheld { v.qualified }] #linebreak()
]
#if s.drawn [#image("chart.svg", width: 100%)]
#for t in s.tables.filter(t => t.derived > 0).slice(0, calc.min(1, s.tables.filter(t => t.derived > 0).len())) [
  #let from = t.head.len() - t.derived
  #set text(size: 7pt)
  #table(columns: t.derived + 1, stroke: (x, y) => (bottom: 0.3pt), inset: (x: 2pt, y: 1.6pt), align: right,
    table.header([], ..t.head.slice(from).map(h => small(h))),
    ..t.rows.map(r => ([#r.at(0)], ..r.slice(r.len() - t.derived).map(c => [#c]))).flatten())
]
#rule
#set text(size: 7pt)
#for v in s.values.filter(v => not v.leads) [#v.name #sym(v.symbol): #strong[#v.reported] #v.unit #v.scatter #linebreak()]
#if s.missing.len() > 0 [Still missing: #s.missing.map(m => m.name + ": " + m.waits_for).join("; "). #linebreak()]
#for v in s.verdicts.filter(v => v.level != "fine") [#strong(upper(v.level)) #v.rule: #v.found (#v.limit) #linebreak()]
#rule
#small[#s.always]
