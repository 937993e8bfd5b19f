//! What the commands print on a small site, to the letter. `DEFT_PIN_WRITE=1 cargo test -p deft-pin`
//! prints what they say now: read it before it becomes what is expected.

use crate::session::Session;

const SITE: &[(&str, &str)] = &[
    (
        "deft-pin.toml",
        r##"[site]
root = 'site'
[pin.look]
pages = ['/fares/']
within = '#fares'
style = 'look.css'
[pin.tide]
script = 'tide.js'
"##,
    ),
    (
        "look.css", r##"h2 { color: teal } .note { margin: 0 }
"##,
    ),
    (
        "tide.js",
        r##"document.querySelector('#tide').textContent = 'High 11:25'
"##,
    ),
    (
        "site/index.html",
        r##"<!doctype html><title>Sorrel Sound</title><body class=front><h1>Ferries</h1><p id=tide></p>
"##,
    ),
    (
        "site/fares/index.html",
        r##"<!doctype html><title>Fares</title><link rel=stylesheet href=../s.css><body class=fares><main id=fares><h2>Fares</h2><p class=note>Day return</p></main><p id=tide></p>
"##,
    ),
    (
        "site/s.css", r##"h2 { color: navy } p { margin: 1em }
"##,
    ),
];

const PRINTED: &str = r##"$ survey
page     title         sections  IDs  marker
/        Sorrel Sound         0    1  body.front
/fares/  Fares                1    2  body.fares
$ survey /fares/
/fares/  Fares
  file    fares/index.html
  marker  body.fares, on no other page
  slots   head-start, head, body-start, foot (the page leaves its <head> tag out)
  styles  s.css
  scripts none

line  section      heading  elements  ID
   1  main #fares  Fares           2  only here
$ locate Fares
/fares/ line 1
  body.fares › main#fares › h2
  “Fares”
  1 #fares h2
     by an ID that somebody wrote, its kind of element
     on no other page
  2 h2
     by its kind of element
     on no other page
$ locate .note
/fares/ line 1
  body.fares › main#fares › p.note
  “Day return”
  1 .note
     by a class with a meaning
     on no other page
  2 #fares p
     by an ID that somebody wrote, its kind of element
     on no other page
  3 main p
     by a landmark of the page, its kind of element
     on no other page
$ reach
look  on 1 of 2 pages: /fares/
  h2  look.css:1
    1 element on 1 page: h2
  .note  look.css:1
    1 element on 1 page: p.note

tide  on 2 of 2 pages: /, /fares/
$ reach look --format json
{
  "version": 1,
  "pins": [
    {
      "pin": "look",
      "pages": [
        {
          "page": "/fares/",
          "elements": [
            {
              "element": "#fares > h2",
              "line": 1,
              "rules": [
                {
                  "file": "look.css",
                  "line": 1,
                  "match": "yes"
                }
              ]
            },
            {
              "element": "#fares > p",
              "line": 1,
              "rules": [
                {
                  "file": "look.css",
                  "line": 1,
                  "match": "yes"
                }
              ]
            }
          ]
        }
      ]
    }
  ]
}
$ why /fares/ h2
/fares/ line 1  #fares > h2
  <h2>Fares</h2><p class=note>Day return</p></main><p id=tide></p>

  color
    wins    color: teal
            h2  (1,0,1)
            look.css:1:6, pin look
    loses   color: navy  by specificity
            h2  (0,0,1)
            s.css:1:6
$ why /fares/ .note margin-top
/fares/ line 1  #fares > p
  <p class=note>Day return</p></main><p id=tide></p>

  margin-top
    wins    margin: 0
            .note  (1,1,0)
            look.css:1:28, pin look
    loses   margin: 1em  by specificity
            p  (0,0,1)
            s.css:1:24
$ order /fares/
/fares/  1 script, 2 style sheets

  while the page is parsed, from top to bottom; ━ holds the parser up until it has come and run
   ┌ s0  link      s.css  head, line 1
   ├ s1  link      look.css  pin look, slot head
   └━s2  classic   tide.js  pin tide, slot foot
         looks up  #tide
$ order /
/  1 script, 0 style sheets

  while the page is parsed, from top to bottom; ━ holds the parser up until it has come and run
   ╶━s0  classic   tide.js  pin tide, slot foot
         looks up  #tide
$ lift /fares/ .note --as quiet
/* From /fares/, line 1: #fares > p */
.quiet {
  margin: 0;
}
"##;

#[test]
fn the_commands_print_what_a_person_reads() {
    let session = Session::with(SITE);
    let commands = PRINTED.lines().filter_map(|line| line.strip_prefix("$ "));
    let printed: String = commands
        .map(|command| format!("$ {command}\n{}\n", session.good(command).stdout.trim_end()))
        .collect();
    if std::env::var_os("DEFT_PIN_WRITE").is_some() {
        println!("{printed}");
    }
    for (line, (found, expected)) in printed.lines().zip(PRINTED.lines()).enumerate() {
        assert_eq!(found, expected, "line {}", line + 1);
    }
    assert_eq!(printed.lines().count(), PRINTED.lines().count());
}
