pub mod markup;
pub mod script;
pub mod source;
pub mod style;
