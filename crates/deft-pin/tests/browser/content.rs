//! The browser as the referee of markup and marks: the built page is the page that the DOM makes of the served one.

use serde_json::{Value, json};

use crate::driver::Browser;
use crate::session::Session;

/// Pages with the oddities that people's systems send: omitted tags, foster parenting, templates, elements of text.
const PAGES: &[&str] = &[
    "<!doctype html><html><head><title>F</title></head><body><main id=m><h2>One</h2><p>a <b>c</b></p><p>d</main></body></html>",
    "<!doctype html><title>F</title><ul id=m><li>one<li>two <i>x</i><li>three</ul><p>tail",
    "<!doctype html><table id=m><caption>c</caption><tr><td>1<td>2<tr><td>3</table><p>z",
    "<!doctype html><table><tbody id=m><tr><td>1</td></tr></tbody></table>x",
    "<!doctype html><table id=m>stray<tr><td>1</table>",
    "<p id=m>no doctype<p>b<table><tr><td>c</table>",
    "<!doctype html><dl id=m><dt>a<dd>b<dt>c<dd>d</dl>",
    "<!doctype html><select id=m><option>a<option>b</select><p>c",
    "<!doctype html><svg id=m><g><path d=''/><circle /></g><title>t</title></svg><p>x",
    "<!doctype html><div id=m><p>one<div>two</div>three</p></div>",
    "<!doctype html><div id=m><b>bold <i>both</b> slanted</i> rest</div>",
    "<!doctype html><div id=m><pre>\n\nx</pre><textarea>\na</textarea></div>",
    "<!doctype html><div id=m><template><p>t</p></template><p>b</p></div>",
    "<!doctype html><div id=m><br><img src=x alt=y><input><hr></div>",
    "<!doctype html><body><div id=m></div><!-- c --> <p></p>\n\n",
    "<!doctype html>\r\n<div id=m>\r\n  <p>a</p>\r\n  <p>b</p>\r\n</div>\r\n",
    "<!doctype html><section id=m><h2>a<h2>b</section><p>c<a href=x>d<p>e</a>",
    "<!doctype html><div id=m><ruby>a<rt>b</ruby><button>x<p>y</button></div>",
    "<!doctype html><div id=m>é ü — 😀 <p>naïve</p></div>",
    "<!doctype html><div id=m><p>open <span>never <em>closed",
    "<!doctype html><form id=m><p><label>a<input></label><p>b</form>",
    "<!doctype html><div id=m><math><mi>x</mi></math><p>a</p></div>",
    "<!doctype html><div id=m><noscript>Turn it on</noscript><p>a</p><noscript><img src=x></noscript></div>",
    "<!doctype html><head><noscript><link rel=stylesheet href=x.css></noscript></head><div id=m><p>a<p>b</div>",
    "<!doctype html><details id=m><summary>s</summary><p>x</details><p>y",
];

/// What the elements are, and what goes there.
const ATS: &[&str] = &[
    "#m", "#m > :first-child", "#m > :last-child", "li", "td", "tr", "p", "body", "b, i", "option", "dd",
    "pre", "img", "g",
];
const HTML: &[&str] = &[
    "<p class=new>x</p>", "<span>x</span>", "text", "<li>x</li>", "<tr><td>x</td></tr>",
    "<div class=f></div>",
];
const PLACES: &[&str] = &["before", "prepend", "append", "after", "replace", "wrap"];

/// For each case the page that the DOM makes, and what is wrong with the built one.
const JUDGE: &str = "const parse = text => new DOMParser().parseFromString(text, 'text/html');
const drawn = doc => doc.documentElement.outerHTML;
return arguments[0].map(([served, built, at, html, place]) => {
  const doc = parse(served), type = /^<!doctype/i.test(served) ? '<!doctype html>' : '';
  const found = [...doc.querySelectorAll(at)];
  if (!found.length) return ['none'];
  for (const element of found) {
    const box = doc.createElement('template');
    box.innerHTML = html;
    const made = doc.importNode(box.content, true);
    if (place === 'replace') element.replaceWith(made);
    else if (place === 'wrap') {
      let inner = made.firstElementChild;
      if (!inner) return ['none'];
      while (inner.childElementCount === 1) inner = inner.firstElementChild;
      element.before(made); inner.append(element);
    } else element[place](made);
  }
  const meant = drawn(doc), lasts = drawn(parse(type + meant)) === meant, is = drawn(parse(built));
  return [is === meant ? 'same' : is === drawn(parse(served)) ? 'left' : 'other', lasts, meant, is];
})";

#[test]
fn markup_stands_where_the_dom_puts_it() {
    let mut cases = Vec::new();
    for page in PAGES {
        for at in ATS {
            for html in HTML {
                let fits = |place: &&&str| {
                    **place != "wrap" || html.starts_with("<div") || html.starts_with("<span")
                };
                cases.extend(PLACES.iter().filter(fits).map(|place| (*page, *at, *html, *place)));
            }
        }
    }
    // All of them take some minutes.
    let step = if std::env::var("DEFT_PIN_CASES").is_ok() { 1 } else { 7 };
    let cases: Vec<_> = cases.into_iter().step_by(step).collect();
    let browser = Browser::open();
    browser.go("about:blank");
    let (mut same, mut left, mut lost, mut other) = (0, 0, Vec::new(), Vec::new());
    for chunk in cases.chunks(200) {
        let session = Session::new();
        let mut board = "[site]\nroot = 'site'\n".to_owned();
        for (number, (page, at, html, place)) in chunk.iter().enumerate() {
            session.write(&format!("site/{number}.html"), page);
            board += &format!(
                "[pin.p{number}]\npages = ['/{number}.html']\nmarkup = [{{ text = '{html}', place = '{place}', at = '{at}' }}]\n"
            );
        }
        session.write("deft-pin.toml", board);
        session.run("build --out out --anyway");
        let rows: Vec<Value> = chunk
            .iter()
            .enumerate()
            .map(|(at, (page, selector, html, place))| {
                let built = session.read(&format!("out/{at}.html"));
                json!([page, built, selector, html, place])
            })
            .collect();
        let told = browser.run(JUDGE, vec![json!(rows)]);
        for (case, told) in chunk.iter().zip(told.as_array().unwrap()) {
            match told[0].as_str().unwrap() {
                "none" => {}
                "same" => same += 1,
                "left" if told[1] == json!(false) => left += 1,
                "left" => lost.push((*case, told[2].clone())),
                _ => other.push(format!("{case:?}\n  meant {}\n  is    {}", told[2], told[3])),
            }
        }
    }
    println!("{same} as the DOM, {left} left out that would not last, {} left out that would", lost.len());
    lost.iter().take(60).for_each(|lost| println!("  {lost:?}"));
    assert!(
        other.is_empty(),
        "{} other than the DOM, such as {}",
        other.len(),
        other[..other.len().min(6)].join("\n")
    );
    assert!(same > 200, "{same}");
    // What has no tag of its own in the page is left out, and told.
    assert!(lost.len() * 10 < same, "{} of {same}", lost.len());
}
