//! What a server's `robots.txt` asks of programs (RFC 9309).

use std::time::Duration;

use texting_robots::Robot;
use url::Url;

use super::fetched::{FetchProblem, Fetched};

/// The name that `robots.txt` may call this tool by.
const NAME: &str = "DeftPin";
/// The longest pause that is kept, whatever is asked.
const LONGEST_PAUSE: f32 = 30.0;
/// As much of the file as has to be read (RFC 9309, section 2.5).
const LONGEST: usize = 500 * 1024;

/// What a server asks of programs.
pub enum Robots {
    /// By its file.
    Asked(Robot),
    /// Nothing.
    Free,
    /// To stay away for now: its file cannot be had (RFC 9309, section 2.3.1.4).
    Away(String),
}

impl Robots {
    /// By the answer to the request for the file.
    pub fn of(answer: Result<Fetched, FetchProblem>) -> Self {
        match answer {
            Ok(answer) if answer.status == 200 => {
                let bytes = &answer.body[..answer.body.len().min(LONGEST)];
                Robot::new(NAME, bytes).map_or(Robots::Free, Robots::Asked)
            }
            Ok(answer) if (500..600).contains(&answer.status) || answer.status == 429 => {
                Robots::Away(format!("its `robots.txt` answers {}", answer.status))
            }
            Ok(_) | Err(FetchProblem::Circle(_) | FetchProblem::Elsewhere(_)) => Robots::Free,
            Err(problem) => Robots::Away(problem.to_string()),
        }
    }

    /// Whether an address may be asked for.
    pub fn allows(&self, url: &Url) -> bool {
        match self {
            Robots::Asked(robot) => robot.allowed(url.as_str()),
            Robots::Free => true,
            Robots::Away(_) => false,
        }
    }

    /// The pause that is asked for between two requests.
    pub fn pause(&self) -> Option<Duration> {
        match self {
            Robots::Asked(robot) => {
                let delay = robot.delay.filter(|delay| delay.is_finite() && *delay > 0.0)?;
                Some(Duration::from_secs_f32(delay.min(LONGEST_PAUSE)))
            }
            Robots::Free | Robots::Away(_) => None,
        }
    }

    /// The addresses of site maps that it names.
    pub fn sitemaps(&self) -> &[String] {
        match self {
            Robots::Asked(robot) => &robot.sitemaps,
            Robots::Free | Robots::Away(_) => &[],
        }
    }
}
