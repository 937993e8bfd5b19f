//! Capturing: a site as a folder of its pages with what they load, from a server or from an archive of what one sent.

mod archive;
mod archived;
mod captured;
mod crawl;
mod har;
mod names;
mod site_folder;
mod sitemap;
mod warc;

pub use archive::{Archive, of_archive};
pub use captured::{Captured, Left, LeftWhy};
pub use crawl::{Crawl, Limits};
pub use site_folder::SiteFolder;
