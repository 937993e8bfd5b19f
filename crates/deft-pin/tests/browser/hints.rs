//! Attributes of presentation: with the declarations that they are said to stand for in their
//! place, every computed value of every element stays what it was.

use serde_json::{Value, json};

use crate::driver::Browser;
use crate::session::Session;

const PAGES: &[&str] = &[
    "<body bgcolor=navy text='#fc0' topmargin=3 leftmargin=7><p align=center>x</p><p align=right>y</p><div align=left>z</div><h2 align=justify>h</h2></body>",
    "<body marginwidth=9 marginheight=4 background=waves.svg bgcolor=chucknorris><div align=middle>z</div></body>",
    "<table border cellpadding=4 cellspacing=6 width=80% height=300 bgcolor=#eee><caption align=bottom>c</caption><tr align=right valign=top bgcolor=red height=30><td width=40 height=20 nowrap>1<th align=left valign=bottom bgcolor=lime>2</table>",
    "<table border=0 align=center width=0><colgroup width=30><col width=40%><tbody align=center valign=middle><tr><td align=char>1</table>",
    "<table border=3 bordercolor=teal align=right background='a b.png'><tr><td>1<td align=middle valign=baseline></table>",
    "<img width=30 height=20 hspace=3 vspace=5 border=2 align=left><img width=50% align=middle><img align=absmiddle border><img align=texttop height=9.5>",
    "<iframe width=100 height=50 frameborder=0 align=right></iframe><video width=30 height=40></video><canvas width=20 height=10></canvas><embed width=5 hspace=2 align=top>",
    "<input type=image width=20 height=8 border=1 align=bottom hspace=4><input width=30 border=3>",
    "<font color=red face='Foo, serif' size=+2>a</font><font size=-1 color=#123>b</font><font size=9>c</font>",
    "<hr align=left width=50% size=7><hr noshade size=1><hr color=green align=right><hr align=center size=0>",
    "<ul type=square><li>a<li type=i>b</ul><ol type=A><li>c<li type=1>d<li type=DISC>e</ol><br clear=all><br clear=left>",
    "<svg><g stroke=blue fill=none stroke-width=2 stroke-dasharray='3 1'><rect fill=red fill-opacity=.5 /><text font-size=30 font-family=serif text-anchor=middle>a</text><circle opacity=50% visibility=hidden /></g></svg>",
];

/// Takes the attributes away, puts declarations in their place, and says what is other than it was.
const SWAPPED: &str = "const names = ['align','valign','bgcolor','background','text','topmargin','leftmargin','rightmargin','bottommargin',
  'marginwidth','marginheight','border','bordercolor','cellpadding','cellspacing','width','height','nowrap','hspace','vspace','frameborder',
  'color','face','size','noshade','clear','type','fill','fill-opacity','stroke','stroke-width','stroke-dasharray','font-size','font-family','text-anchor','opacity','visibility'];
  const all = [...document.querySelectorAll('*')];
  const look = () => all.map(e => { const s = getComputedStyle(e); return [...s].map(n => n + ': ' + s.getPropertyValue(n)); });
  const before = look();
  const claims = arguments[0].map(([selector, text]) => [document.querySelector(selector), text]);
  all.forEach(e => names.forEach(n => { if (e.localName != 'canvas' && (e.localName != 'input' || n != 'type')) e.removeAttribute(n) }));
  claims.forEach(([e, text]) => e.style.cssText = text);
  const after = look();
  return before.flatMap((own, at) => own.filter((value, place) => value != after[at][place]).map((value, _) =>
    all[at].localName + ' ' + value + ' was, is ' + after[at].find(other => other.split(':')[0] == value.split(':')[0])));";

#[test]
fn attributes_of_presentation_are_the_declarations_that_they_are_said_to_be() {
    let browser = Browser::open();
    let session = Session::new();
    let mut claimed = 0;
    let mut wrong = Vec::new();
    for page in PAGES {
        let page = format!("<!doctype html><meta charset=utf-8>{page}");
        session.write("site/index.html", &page);
        browser.go(&format!("file://{}", session.path("site/index.html").display()));
        let answer = session.run("why --site site --format json / *").json();
        let mut claims = Vec::new();
        for element in answer["elements"].as_array().unwrap() {
            let text: String = element["properties"]
                .as_array()
                .unwrap()
                .iter()
                .filter(|property| property["winner"]["origin"] == "attribute")
                .map(|property| {
                    claimed += 1;
                    let winner = &property["winner"];
                    let name = winner["declared"].as_str().unwrap_or(property["property"].as_str().unwrap());
                    format!("{name}: {};", winner["value"].as_str().unwrap())
                })
                .collect();
            claims.push(json!([element["element"], text]));
        }
        let changed = browser.run(SWAPPED, vec![json!(claims)]);
        wrong.extend((changed != Value::Array(vec![])).then(|| format!("{page}\n{changed}")));
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    assert!(claimed > 100, "{claimed}");
}
