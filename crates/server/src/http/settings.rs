//! How the server stands in its network: behind which proxies, and whether in front of it there is TLS.

use std::net::IpAddr;

use actix_web::HttpRequest;
use actix_web::http::header;

/// Without any, the server is taken to be reached directly and without TLS.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Settings {
    /// Addresses of proxies in front: only theirs is believed what they say of the client.
    pub proxies: Vec<IpAddr>,
    /// Everybody comes by https, whatever the proxy says.
    pub always_https: bool,
}

impl Settings {
    fn is_proxy(&self, address: IpAddr) -> bool {
        self.proxies.contains(&address)
    }

    /// The address that a request came from: the last one that no proxy of ours has. What clients claim is not believed.
    pub(crate) fn client(&self, request: &HttpRequest) -> String {
        let Some(peer) = request.peer_addr().map(|a| a.ip()) else {
            return "unknown".to_owned();
        };
        if !self.is_proxy(peer) {
            return peer.to_string();
        }
        let named = request
            .headers()
            .get_all("x-forwarded-for")
            .filter_map(|v| v.to_str().ok());
        let hops: Vec<IpAddr> = named
            .flat_map(|v| v.split(','))
            .filter_map(|a| a.trim().parse().ok())
            .collect();
        let client = hops.into_iter().rev().find(|a| !self.is_proxy(*a));
        client.unwrap_or(peer).to_string()
    }

    /// Whether the client came by https, as far as we know.
    pub(crate) fn is_https(&self, request: &HttpRequest) -> bool {
        let peer_is_proxy = request.peer_addr().is_some_and(|a| self.is_proxy(a.ip()));
        let said = request
            .headers()
            .get("x-forwarded-proto")
            .and_then(|v| v.to_str().ok());
        self.always_https || (peer_is_proxy && said.is_some_and(|s| s.trim().eq_ignore_ascii_case("https")))
    }

    /// The name under which the client reaches us.
    pub(crate) fn host(&self, request: &HttpRequest) -> Option<String> {
        let text = |name: &str| request.headers().get(name)?.to_str().ok().map(str::to_owned);
        let peer_is_proxy = request.peer_addr().is_some_and(|a| self.is_proxy(a.ip()));
        let forwarded = if peer_is_proxy {
            text("x-forwarded-host")
        } else {
            None
        };
        forwarded.or_else(|| text(header::HOST.as_str()))
    }

    /// Where this is served from, as the one who asks knows it; without a slash at its end.
    pub(crate) fn base(&self, request: &HttpRequest) -> String {
        let scheme = if self.is_https(request) { "https" } else { "http" };
        let host = self.host(request).unwrap_or_else(|| "localhost".into());
        format!("{scheme}://{host}")
    }
}

#[cfg(test)]
mod tests {
    use actix_web::test::TestRequest;

    use super::*;

    fn request(peer: &str, forwarded: Option<&str>) -> HttpRequest {
        let request = TestRequest::default().peer_addr(format!("{peer}:4000").parse().unwrap());
        match forwarded {
            Some(value) => request
                .insert_header(("x-forwarded-for", value))
                .to_http_request(),
            None => request.to_http_request(),
        }
    }

    #[test]
    fn only_a_named_proxy_is_believed() {
        let settings = Settings {
            proxies: vec!["10.0.0.1".parse().unwrap()],
            always_https: false,
        };
        assert_eq!(
            settings.client(&request("10.0.0.1", Some("192.0.2.7"))),
            "192.0.2.7"
        );
        assert_eq!(
            settings.client(&request("10.0.0.2", Some("192.0.2.7"))),
            "10.0.0.2"
        );
        assert_eq!(settings.client(&request("10.0.0.1", None)), "10.0.0.1");
        // What the client put in front of its own address counts for nothing.
        assert_eq!(
            settings.client(&request("10.0.0.1", Some("203.0.113.9, 192.0.2.7"))),
            "192.0.2.7"
        );
        assert_eq!(
            settings.client(&request("10.0.0.1", Some("nonsense"))),
            "10.0.0.1"
        );
    }

    #[test]
    fn https_is_what_the_proxy_says_or_the_settings() {
        let by_proxy = Settings {
            proxies: vec!["10.0.0.1".parse().unwrap()],
            always_https: false,
        };
        let asked = |peer: &str| {
            TestRequest::default()
                .peer_addr(format!("{peer}:4000").parse().unwrap())
                .insert_header(("x-forwarded-proto", "https"))
                .to_http_request()
        };
        assert!(by_proxy.is_https(&asked("10.0.0.1")));
        assert!(!by_proxy.is_https(&asked("10.0.0.9")));
        assert!(
            Settings {
                proxies: Vec::new(),
                always_https: true
            }
            .is_https(&request("10.0.0.9", None))
        );
    }
}
