package org.mnemex.service.web;

import jakarta.servlet.http.HttpServletRequest;
import java.time.Clock;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.access.AccessKey;
import org.mnemex.service.access.Caller;
import org.mnemex.service.access.Keys;
import org.mnemex.service.access.Tokens;
import org.springframework.security.authentication.AuthenticationProvider;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.security.oauth2.server.resource.InvalidBearerTokenException;
import org.springframework.security.oauth2.server.resource.authentication.BearerTokenAuthenticationToken;
import org.springframework.stereotype.Component;

/** Tells who calls: by key, by token, or nobody in particular. */
@Component
public class Callers implements AuthenticationProvider {
  private final Keys keys;
  private final Tokens tokens;
  private final Clock clock;
  private final boolean withKeys;

  Callers(Keys keys, Tokens tokens, Clock clock, MnemexSettings settings) {
    this.keys = keys;
    this.tokens = tokens;
    this.clock = clock;
    this.withKeys = settings.keys();
  }

  /** Whether callers need keys. */
  public boolean needKeys() {
    return withKeys;
  }

  @Override
  public Authentication authenticate(Authentication authentication) {
    return new CallerAuthentication(
        of(((BearerTokenAuthenticationToken) authentication).getToken()));
  }

  @Override
  public boolean supports(Class<?> authentication) {
    return BearerTokenAuthenticationToken.class.isAssignableFrom(authentication);
  }

  /**
   * The caller of a key or token.
   *
   * @throws InvalidBearerTokenException if it is not valid now; without the reason
   */
  Caller of(String text) {
    AccessKey key = keys.find(text);
    Caller caller = key == null ? tokens.find(text) : Caller.of(key);
    if (caller == null) {
      throw new InvalidBearerTokenException("the key or token is not valid");
    }
    return caller;
  }

  /** The caller of the current request; null for nobody. */
  public @Nullable Caller current() {
    Caller caller = named();
    return caller == null || !isValid(caller) ? null : caller;
  }

  /** The caller of the current request, even if its key no longer works; null for nobody. */
  @Nullable Caller named() {
    Authentication authentication = SecurityContextHolder.getContext().getAuthentication();
    if (authentication != null && authentication.getPrincipal() instanceof Caller caller) {
      return caller;
    }
    return withKeys ? null : Caller.LOCAL;
  }

  /** Whether a caller's key or token is still valid; a session or stream may outlive it. */
  public boolean isValid(Caller caller) {
    if (caller.isLocal()) {
      return !withKeys;
    }
    boolean inTime = caller.until() == null || clock.instant().isBefore(caller.until());
    return inTime && (caller.keyId().equals("token") || keys.works(caller.keyId()));
  }

  /** The name of the current caller for what is recorded; what a local caller says of itself. */
  public String author(String said) {
    Caller caller = current();
    return caller == null || caller.isLocal() ? said : caller.name();
  }

  /** Where a request comes from. */
  static String address(HttpServletRequest request) {
    return request.getRemoteAddr();
  }
}
