//! A server that is not ours, on this machine.

use std::net::{TcpListener, TcpStream};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use super::{Server, Session};

/// nginx, serving a folder of a session. Gone at the end of the test.
pub struct Nginx {
    child: Child,
    pub server: Server,
}

impl std::ops::Deref for Nginx {
    type Target = Server;

    fn deref(&self) -> &Server {
        &self.server
    }
}

impl Session {
    /// Serves a folder with nginx; `more` stands in the `server` block.
    pub fn nginx(&self, folder: &str, more: &str) -> Nginx {
        let port = TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
        let (own, root) = (self.path("nginx"), self.path(folder));
        std::fs::create_dir_all(&own).unwrap();
        let temporary = |kind: &str| format!("{kind}_temp_path {}/{kind};\n", own.display());
        let paths: String = ["client_body", "proxy", "fastcgi", "uwsgi", "scgi"].map(temporary).concat();
        let config = format!(
            "daemon off; master_process off; worker_processes 1; pid {own}/pid; error_log {own}/error.log;
             events {{ worker_connections 1024; }}
             http {{ {paths} access_log off; include /etc/nginx/mime.types; charset off;
               server {{ listen 127.0.0.1:{port}; root {root}; {more} }} }}",
            own = own.display(),
            root = root.display()
        );
        self.write("nginx/nginx.conf", config);
        let child = Command::new("/usr/sbin/nginx")
            .args([
                "-e".as_ref(),
                own.join("error.log").as_os_str(),
                "-c".as_ref(),
                own.join("nginx.conf").as_os_str(),
            ])
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .spawn()
            .expect("nginx is installed: ./test sees to it");
        let until = Instant::now() + Duration::from_secs(10);
        while TcpStream::connect(("127.0.0.1", port)).is_err() {
            assert!(Instant::now() < until, "nginx does not listen: {}", self.read("nginx/error.log"));
            std::thread::sleep(Duration::from_millis(20));
        }
        Nginx { child, server: Server { port } }
    }
}

impl Drop for Nginx {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}
