pub mod markup;
pub mod source;
