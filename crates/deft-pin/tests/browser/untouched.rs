//! A page that nobody has touched: the states that `why` says its elements are in are those of Chromium.

use serde_json::json;

use crate::driver::Browser;
use crate::session::Session;

const STATES: &[&str] = &[
    ":checked", ":indeterminate", ":default", ":placeholder-shown", ":read-only", ":read-write", ":open",
    ":defined", ":hover", ":not(:hover)", ":active", ":focus", ":not(:focus-within)", ":target", ":modal",
    ":popover-open", ":user-invalid", ":fullscreen", ":dir(ltr)", ":dir(rtl)", ":host-context(body)",
    ":host", ":is(:hover, :checked)", ":not(:is(:hover, :checked))", ":has(:checked)", ":has(:hover)",
    ":not(:has(:focus))",
];

const PAGE: &str = r#"<!doctype html><title>Book</title><style>RULES</style>
<input id=a checked type=checkbox><input type=checkbox>
<input type=radio name=r checked><input type=radio name=r checked><input type=radio name=r>
<input type=radio name=q><input type=radio checked><input type=radio>
<form><input type=radio name=r checked><input type=radio name=q checked></form>
<input type=radio name=f form=far checked><form id=far><input type=radio name=f checked></form>
<progress></progress><progress value=1></progress>
<select><option>a<option>b</select><select><option>a<option selected>b</select>
<select><option selected>a<option selected>b</select><select><option disabled>a<option>b</select>
<select><optgroup disabled><option>a</optgroup><option>b</select>
<select multiple><option>x</select><select multiple><option selected>x<option selected>y</select>
<select size=3><option>x</select><select size=1><option>x</select><select size=3><option selected>x</select>
<input placeholder=x><input placeholder=x value=y><input placeholder=""><input placeholder=x value="">
<textarea placeholder=x></textarea><textarea placeholder=x>
</textarea><textarea placeholder=x> </textarea><textarea></textarea>
<input readonly><input type=range><input type=RANGE><input type=nope placeholder=x><input disabled placeholder=x>
<fieldset disabled><input placeholder=x><textarea></textarea></fieldset>
<input type=date placeholder=x><input type=password placeholder=x><input type=hidden placeholder=x>
<p contenteditable>x <b>y <i contenteditable=false>z</i></b></p><p contenteditable=false>x</p>
<details open>x<summary>y</summary></details><details>x</details><dialog open>x</dialog><dialog>x</dialog>
<p popover>x</p>
<form><button>x</button><button>y</button></form><form><button type=button>x</button><input type=submit></form>
<button>x</button><form><input type=image><button type=submit>y</button></form>
<p dir=rtl>x <b>y</b> <bdi>x</bdi></p><p dir=auto>&#x05D0; x <b>y</b></p><p dir=auto><b dir=ltr>x</b>&#x0627;</p>
<p dir=auto>12 !</p><div dir=rtl><p dir=nope>x</p><p dir=auto></p><input type=tel><input><p dir=AUTO>x</p></div>
<p dir=auto><bdi>x</bdi>&#x0627;</p><bdi>&#x05D0;</bdi><textarea dir=auto>&#x05D0;</textarea>
<input dir=auto value=&#x05D0;><p dir=auto><script>x</script>&#x05D0;</p><p dir=auto><style>x{}</style>&#x05D0;</p>
"#;

#[test]
fn states_of_a_page_that_nobody_has_touched_are_those_of_chromium() {
    let rules = STATES.iter().enumerate().map(|(at, state)| format!("{state} {{ --s{at}: 1 }}\n"));
    let register =
        (0..STATES.len()).map(|at| format!("@property --s{at} {{ syntax: '*'; inherits: false }}\n"));
    let sheet: String = rules.chain(register).collect();
    let session = Session::with(&[("site/index.html", &PAGE.replace("RULES", &sheet))]);
    let answer = session.good("why --site site / * --format json").json();
    let browser = Browser::whole();
    browser.go(&format!("file://{}", session.path("site/index.html").display()));
    let names: Vec<String> = (0..STATES.len()).map(|at| format!("--s{at}")).collect();
    let found = browser.run(
        "return [...document.querySelectorAll('*')].map(element => [element.outerHTML.slice(0, 60),
           arguments[0].map(name => getComputedStyle(element).getPropertyValue(name))])",
        vec![json!(names)],
    );
    let elements = answer["elements"].as_array().unwrap();
    assert_eq!(elements.len(), found.as_array().unwrap().len());
    let mut wrong = Vec::new();
    for (element, found) in elements.iter().zip(found.as_array().unwrap()) {
        let is_said = |name: &str| {
            let properties = element["properties"].as_array().unwrap();
            let own = properties.iter().find(|property| property["property"] == name);
            own.is_some_and(|own| own["winner"]["match"] == "yes")
        };
        for (at, name) in names.iter().enumerate() {
            let is_so = found[1][at] == "1";
            if is_so != is_said(name) {
                wrong.push(format!("{} of {}: {is_so} in Chromium", STATES[at], found[0]));
            }
        }
    }
    assert!(wrong.is_empty(), "{wrong:#?}");
}
