//! What modules take from each other, and give (ECMA-262, 16.2).

use oxc_ast::AstKind;
use oxc_ast::ast::{BindingPattern, Declaration, ExportSpecifier, ImportDeclarationSpecifier, StringLiteral};

use super::values::span_of;
use crate::source::Span;

/// What a module takes from another.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ModuleImport {
    /// The other, as it is named.
    pub specifier: String,
    /// Where.
    pub span: Span,
    /// The names that the other has to export, each with its place.
    pub names: Vec<(String, Span)>,
}

/// What a module gives to others.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct ModuleExports {
    /// The names that it exports.
    pub names: Vec<String>,
    /// The modules of which it exports all names.
    pub all_of: Vec<String>,
}

/// Takes note of what a piece of a module takes and gives.
pub(super) fn note_module(kind: AstKind<'_>, imports: &mut Vec<ModuleImport>, exports: &mut ModuleExports) {
    let of = |source: &StringLiteral<'_>, names| ModuleImport {
        specifier: source.value.to_string(),
        span: span_of(source),
        names,
    };
    match kind {
        AstKind::ImportDeclaration(own) => {
            let names = own.specifiers.iter().flatten().filter_map(|specifier| match specifier {
                ImportDeclarationSpecifier::ImportSpecifier(own) => {
                    Some((own.imported.name().to_string(), span_of(&**own)))
                }
                ImportDeclarationSpecifier::ImportDefaultSpecifier(own) => {
                    Some(("default".to_owned(), span_of(&**own)))
                }
                ImportDeclarationSpecifier::ImportNamespaceSpecifier(_) => None,
            });
            imports.push(of(&own.source, names.collect()));
        }
        AstKind::ExportAllDeclaration(own) => {
            imports.push(of(&own.source, Vec::new()));
            match &own.exported {
                Some(name) => exports.names.push(name.name().to_string()),
                None => exports.all_of.push(own.source.value.to_string()),
            }
        }
        AstKind::ExportFromDeclaration(own) => {
            let local = |own: &ExportSpecifier<'_>| (own.local.name().to_string(), span_of(own));
            imports.push(of(&own.source, own.specifiers.iter().map(local).collect()));
            exports.names.extend(own.specifiers.iter().map(|own| own.exported.name().to_string()));
        }
        AstKind::ExportNamedDeclaration(own) => {
            exports.names.extend(own.specifiers.iter().map(|own| own.exported.name().to_string()));
        }
        AstKind::ExportDefaultDeclaration(_) => exports.names.push("default".to_owned()),
        AstKind::ExportDeclaration(own) => match &own.declaration {
            Declaration::VariableDeclaration(all) => {
                all.declarations.iter().for_each(|own| bound_by(&own.id, &mut exports.names));
            }
            Declaration::FunctionDeclaration(own) => {
                exports.names.extend(own.id.iter().map(|id| id.name.to_string()));
            }
            Declaration::ClassDeclaration(own) => {
                exports.names.extend(own.id.iter().map(|id| id.name.to_string()));
            }
            _ => {}
        },
        _ => {}
    }
}

/// The names that a pattern binds.
fn bound_by(pattern: &BindingPattern<'_>, names: &mut Vec<String>) {
    names.extend(pattern.get_binding_identifiers().iter().map(|own| own.name.to_string()));
}
