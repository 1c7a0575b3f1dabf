package org.mnemex.service.web;

import org.jspecify.annotations.Nullable;
import org.mnemex.service.access.Caller;
import org.springframework.security.authentication.AbstractAuthenticationToken;
import org.springframework.security.core.authority.AuthorityUtils;

/** A caller whose key or token was found to be valid. */
final class CallerAuthentication extends AbstractAuthenticationToken {
  private static final long serialVersionUID = 1L;
  private final transient Caller caller;

  CallerAuthentication(Caller caller) {
    super(AuthorityUtils.createAuthorityList(caller.right().word()));
    this.caller = caller;
    setAuthenticated(true);
  }

  @Override
  public @Nullable Object getCredentials() {
    return null;
  }

  @Override
  public Caller getPrincipal() {
    return caller;
  }

  @Override
  public boolean equals(@Nullable Object other) {
    return other instanceof CallerAuthentication that && caller.equals(that.caller);
  }

  @Override
  public int hashCode() {
    return caller.hashCode();
  }
}
