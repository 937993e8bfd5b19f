pub mod markup;
pub mod source;
pub mod style;
