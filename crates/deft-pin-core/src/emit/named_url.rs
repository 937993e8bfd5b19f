//! Addresses in sheets and scripts, with the names of the files of the output that they are to lead to, and how each
//! is written where its text stands.

use std::collections::{BTreeMap, BTreeSet};

use crate::code::encode_segment;
use crate::plan::{LocalUrl, UrlForm};
use crate::script::{self, AddressForm};
use crate::source::{FilePath, Span};
use crate::style::Edit;

/// An address, with the name of the file that it is to lead to.
#[derive(Clone, Debug)]
pub struct NamedUrl {
    /// What holds it.
    span: Span,
    /// How it stands there.
    form: UrlForm,
    /// The name of the file in the folder of assets.
    pub file: String,
    /// Query and fragment.
    pub suffix: String,
}

/// How addresses in a script are given to it.
#[derive(Clone, Copy, Debug)]
pub(super) enum ScriptAddressing<'a> {
    /// As they are.
    Plain,
    /// By an expression that makes the whole address of what stands between its two parts: a name as a literal.
    ByExpression(&'a str, &'a str),
}

impl NamedUrl {
    /// The addresses that lead to files of the output.
    pub(super) fn of(urls: &[LocalUrl], names: &BTreeMap<FilePath, String>) -> Vec<NamedUrl> {
        let named = urls.iter().filter_map(|url| {
            let (file, suffix) = (names.get(&url.path)?.clone(), url.suffix.clone());
            Some(NamedUrl { span: url.span, form: url.form, file, suffix })
        });
        named.collect()
    }

    /// The address of a file in markup.
    pub(super) fn in_markup(name: &str) -> NamedUrl {
        let span = Span { start: 0, end: 0 };
        NamedUrl { span, form: UrlForm::Markup, file: name.to_owned(), suffix: String::new() }
    }

    /// The file's name as it stands in an address, with query and fragment.
    pub(super) fn name(&self) -> String {
        format!("{}{}", encode_segment(&self.file), self.suffix)
    }

    /// The address as it is written in its text.
    fn written(&self, address: &str, addressing: ScriptAddressing<'_>) -> String {
        let form = match self.form {
            UrlForm::Script(form) => form,
            UrlForm::Url => return format!("url({})", in_sheet(address)),
            UrlForm::Text => return in_sheet(address),
            UrlForm::Markup | UrlForm::Link => return address.to_owned(),
        };
        let expression = |address: &str| match addressing {
            ScriptAddressing::Plain => None,
            ScriptAddressing::ByExpression(open, close) => {
                Some(format!("{open}{}{close}", script::quoted(address)))
            }
        };
        match form {
            AddressForm::Part { quote, .. } => match (expression(&dotted(address)), quote) {
                (None, _) => address.to_owned(),
                (Some(code), '`') => format!("${{{code}}}"),
                (Some(code), quote) => format!("{quote} + {code} + {quote}"),
            },
            AddressForm::Literal => {
                expression(&dotted(address)).unwrap_or_else(|| script::quoted(&dotted(address)))
            }
            AddressForm::Specifier | AddressForm::Beginning => script::quoted(&dotted(address)),
        }
    }
}

/// What writes other addresses into a text.
pub(super) fn url_edits(
    urls: &[NamedUrl],
    addressing: ScriptAddressing<'_>,
    address: &dyn Fn(&NamedUrl) -> String,
) -> Vec<Edit> {
    let mut edits: Vec<Edit> = urls
        .iter()
        .map(|url| Edit { span: url.span, text: url.written(&address(url), addressing) })
        .collect();
    if matches!(addressing, ScriptAddressing::ByExpression(..)) {
        // A text that comes apart stays one operand.
        let parted: BTreeSet<Span> = urls.iter().filter_map(NamedUrl::parted).collect();
        for literal in parted {
            let at = |position| Span { start: position, end: position };
            edits.push(Edit { span: at(literal.start), text: "(".to_owned() });
            edits.push(Edit { span: at(literal.end), text: ")".to_owned() });
        }
    }
    edits
}

impl NamedUrl {
    /// The literal in quotes that an expression in its midst takes apart.
    fn parted(&self) -> Option<Span> {
        match self.form {
            UrlForm::Script(AddressForm::Part { quote, literal }) if quote != '`' => Some(literal),
            _ => None,
        }
    }
}

fn in_sheet(address: &str) -> String {
    let mut text = String::new();
    // Writing to a string does not fail.
    let _ = cssparser::serialize_string(address, &mut text);
    text
}

/// A relative address with a dot before it, so that it means no name of an import map.
fn dotted(address: &str) -> String {
    let first = address.split(['/', '?', '#']).next().unwrap_or_default();
    match address.starts_with(['/', '.']) || first.contains(':') {
        true => address.to_owned(),
        false => format!("./{address}"),
    }
}
