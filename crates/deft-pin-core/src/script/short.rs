//! Scripts without comments and without the blanks that only people need.

use oxc_codegen::{Codegen, CodegenOptions};

use super::syntax::with_program;

/// A classic script that does the same with less text; the text itself where it cannot be read.
pub fn short(text: &str) -> String {
    let written = with_program(text, |program, flaws| {
        flaws.is_empty().then(|| {
            let options = CodegenOptions { minify: true, ..CodegenOptions::minify() };
            Codegen::new().with_options(options).build(program).code
        })
    });
    match written {
        Ok(Some(code)) if code.len() < text.len() => code,
        _ => text.to_owned(),
    }
}

#[cfg(test)]
mod tests {
    use super::short;

    #[test]
    fn what_only_people_need_goes() {
        let table = [
            ("// a\nvar a = 1; /* b */ go( a );\n", "var a=1;go(a);"),
            ("'use strict'\nlet x = `a ${b}  c`", "\"use strict\";let x=`a ${b}  c`;"),
            ("}{", "}{"),
        ];
        for (text, expected) in table {
            assert_eq!(short(text), expected);
        }
    }
}
