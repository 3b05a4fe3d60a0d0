#pragma once
// How a report looks and what its tables do: one style sheet and a few lines of script, both part
// of the page.

namespace kiteknot::report {

inline constexpr const char* kReportStyle = R"css(
:root{--paper:#fbfaf5;--card:#fffefb;--ink:#23303a;--soft:#5b6770;--faint:#d9d5c7;--sand:#f3ecdb;
--sea:#2f6f8f;--sail:#c2553a;--meadow:#5d7f3a;color-scheme:light dark}
@media (prefers-color-scheme:dark){:root{--paper:#182127;--card:#1f2a31;--ink:#e9e4d6;--soft:#a9b1b3;
--faint:#3a464d;--sand:#2a353b;--sea:#7fbdd8;--sail:#ee9378;--meadow:#a7cc7d}}
*{box-sizing:border-box}
body{margin:0;background:var(--paper);color:var(--ink);
font:16px/1.5 "Source Sans 3","Noto Sans","DejaVu Sans",system-ui,sans-serif}
header,main,footer{max-width:68rem;margin:0 auto;padding:1rem 1.25rem}
header{padding-top:2rem;padding-bottom:0}
h1{font-size:1.9rem;line-height:1.2;margin:0 0 .35rem}
.lead{font-size:1.15rem;margin:.2rem 0;color:var(--soft)}
nav{display:flex;flex-wrap:wrap;gap:.3rem 1.1rem;margin:1rem 0 0;padding:.6rem 0;
border-top:3px double var(--faint);border-bottom:1px solid var(--faint)}
nav a{color:var(--sea);text-decoration:none}nav a:hover{text-decoration:underline}
section{background:var(--card);border:1px solid var(--faint);border-radius:.6rem;
padding:1rem 1.25rem 1.25rem;margin:0 0 1.25rem}
h2{font-size:1.35rem;margin:0 0 .6rem}h2.good{color:var(--sea)}h2.bad{color:var(--sail)}
h3{font-size:1.05rem;margin:1.3rem 0 .4rem}
p{margin:.4rem 0;max-width:52rem;overflow-wrap:anywhere}
.wide{overflow-x:auto;margin:.3rem 0}
table{border-collapse:collapse;font-size:.95rem}
td,th{padding:.22rem 1.1rem .22rem 0;text-align:left;vertical-align:top}
td:last-child{overflow-wrap:anywhere;min-width:6rem}
th{border-bottom:2px solid var(--faint);font-weight:600;white-space:nowrap}
table.sorts tr+tr td,table.sorts tbody tr td{border-bottom:1px solid var(--faint)}
.number{text-align:right;font-variant-numeric:tabular-nums}
table.sorts td:not(:last-child){white-space:nowrap}
table.sorts thead th button{all:unset;cursor:pointer}
table.sorts thead th button:focus-visible{outline:2px solid var(--sea);outline-offset:2px}
th[aria-sort=ascending] button::after{content:" \2191"}
th[aria-sort=descending] button::after{content:" \2193"}
.sieve{display:block;margin:.4rem 0;font-size:.9rem;color:var(--soft)}
.sieve input{font:inherit;color:inherit;background:var(--paper);border:1px solid var(--faint);
border-radius:.35rem;padding:.2rem .5rem;margin-left:.4rem;width:min(18rem,60vw)}
.bars{display:grid;grid-template-columns:minmax(6rem,max-content) 1fr max-content;gap:.25rem .8rem;
align-items:center;max-width:52rem;margin:.5rem 0}
.bars i{display:block;height:.85rem;background:var(--sea);border-radius:.15rem;min-width:1px}
.bars i.best{background:var(--sail)}.bars i.off{background:repeating-linear-gradient(45deg,
var(--soft) 0 2px,transparent 2px 6px)}
.bars b{font-weight:400;font-variant-numeric:tabular-nums;text-align:right}
.fill{display:inline-block;vertical-align:middle;width:6rem;height:.6rem;background:var(--sand);
border-radius:.3rem;overflow:hidden}
.fill i{display:block;height:100%;background:var(--sea)}.fill i.full{background:var(--sail)}
figure{margin:.6rem 0}figure.sheet{border:1px solid var(--faint);border-radius:.4rem;overflow:hidden;line-height:0}svg{max-width:100%;height:auto}figcaption{font-size:.9rem;color:var(--soft)}
svg.time text{fill:var(--ink);font:18px "Source Sans 3","Noto Sans","DejaVu Sans",sans-serif}
svg.time .frame{stroke:var(--faint);fill:none}svg.time .plan{stroke:var(--sail);stroke-width:3;fill:none}
svg.time .bound{stroke:var(--sea);stroke-width:3;fill:none}svg.time .open{fill:var(--sand);stroke:none}
svg.time .mark{fill:var(--sail)}
footer{font-size:.9rem;color:var(--soft);padding-bottom:2rem}
@media (max-width:520px){body{font-size:15px}header,main,footer{padding-left:.7rem;padding-right:.7rem}
section{padding:.8rem .8rem 1rem}.bars{grid-template-columns:minmax(4.5rem,8rem) 1fr max-content}}
@media print{:root{--paper:#fff;--card:#fff;--ink:#000;--soft:#333;--faint:#bbb;--sand:#eee}
nav,.sieve{display:none}section{border:0;padding:0;break-inside:auto}tr,figure{break-inside:avoid}
h2,h3{break-after:avoid}.wide{overflow:visible}}
)css";

// A click on a heading sorts by it, figures by size and names in order of the alphabet; what is
// typed above a long table leaves the rows that hold it.
inline constexpr const char* kReportScript = R"js(
for (const table of document.querySelectorAll('table.sorts')) {
  const body = document.createElement('tbody');
  for (const row of [...table.rows].slice(1)) body.append(row);
  for (const empty of table.querySelectorAll('tbody')) empty.remove();
  table.append(body);
  const size = text => {
    const plain = text.replace(/[,\u00a0]/g, '').match(/^[+-]?\d+(\.\d+)?(\/\d+)?/);
    if (!plain) return NaN;
    const [over, under] = plain[0].split('/');
    return under ? over / under : +over;
  };
  [...table.tHead.rows[0].cells].forEach((head, column) => {
    const button = document.createElement('button');
    button.append(...head.childNodes);
    head.append(button);
    button.addEventListener('click', () => {
      const down = head.getAttribute('aria-sort') === 'ascending';
      for (const other of table.tHead.rows[0].cells) other.removeAttribute('aria-sort');
      head.setAttribute('aria-sort', down ? 'descending' : 'ascending');
      const text = row => row.cells[column] ? row.cells[column].textContent.trim() : '';
      const rows = [...body.rows].map((row, place) => ({row, place, key: text(row)}));
      const figures = rows.every(r => r.key === '' || !isNaN(size(r.key)));
      rows.sort((a, b) => {
        if ((a.key === '') !== (b.key === '')) return a.key === '' ? 1 : -1;
        const order = figures ? size(a.key) - size(b.key) : a.key.localeCompare(b.key);
        return (down ? -order : order) || a.place - b.place;
      });
      body.append(...rows.map(r => r.row));
    });
  });
  if (body.rows.length < 8) continue;
  const sieve = document.createElement('label');
  const input = document.createElement('input');
  const count = document.createElement('span');
  sieve.className = 'sieve';
  input.type = 'search';
  sieve.append('Only rows with', input, ' ', count);
  input.addEventListener('input', () => {
    const wanted = input.value.toLowerCase();
    let left = 0;
    for (const row of body.rows) {
      row.hidden = !row.textContent.toLowerCase().includes(wanted);
      left += row.hidden ? 0 : 1;
    }
    count.textContent = wanted ? left + ' of ' + body.rows.length : '';
  });
  table.closest('.wide').before(sieve);
}
)js";

}  // namespace kiteknot::report
