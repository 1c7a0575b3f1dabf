package org.mnemex.service.web;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.util.List;
import org.mnemex.service.MnemexSettings;
import org.springframework.core.Ordered;
import org.springframework.core.annotation.Order;
import org.springframework.security.web.util.matcher.IpAddressMatcher;
import org.springframework.stereotype.Component;
import org.springframework.web.filter.ForwardedHeaderFilter;
import org.springframework.web.filter.OncePerRequestFilter;

/** Takes forwarded headers (RFC 7239) from trusted proxies, and ignores anybody else's. */
@Component
@Order(Ordered.HIGHEST_PRECEDENCE)
class TrustedProxies extends OncePerRequestFilter {
  private final List<IpAddressMatcher> networks;
  private final ForwardedHeaderFilter taking = new ForwardedHeaderFilter();
  private final ForwardedHeaderFilter ignoring = new ForwardedHeaderFilter();

  TrustedProxies(MnemexSettings settings) {
    this.networks = settings.behindProxy().stream().map(IpAddressMatcher::new).toList();
    ignoring.setRemoveOnly(true);
  }

  @Override
  protected void doFilterInternal(
      HttpServletRequest request, HttpServletResponse response, FilterChain chain)
      throws ServletException, IOException {
    boolean trusted =
        networks.stream().anyMatch(network -> network.matches(request.getRemoteAddr()));
    (trusted ? taking : ignoring).doFilter(request, response, chain);
  }
}
