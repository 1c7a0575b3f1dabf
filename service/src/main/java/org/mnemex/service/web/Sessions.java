package org.mnemex.service.web;

import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import jakarta.servlet.http.HttpSession;
import jakarta.servlet.http.HttpSessionEvent;
import jakarta.servlet.http.HttpSessionListener;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import org.mnemex.service.access.AccessKey;
import org.mnemex.service.access.Caller;
import org.mnemex.service.access.Keys;
import org.mnemex.service.access.Right;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.springframework.security.core.context.SecurityContext;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.security.web.context.SecurityContextRepository;
import org.springframework.stereotype.Component;

/**
 * Sessions of the console, in memory: a restart signs everybody out. A session ends when it was
 * idle for long (the web server's setting), after {@link #LONGEST}, and with its key.
 */
@Component
public class Sessions implements HttpSessionListener {
  private static final Duration LONGEST = Duration.ofHours(12);

  private final Keys keys;
  private final SecurityContextRepository contexts;
  private final Clock clock;
  private final Map<String, Open> open = new ConcurrentHashMap<>();

  private record Open(HttpSession session, String keyId) {}

  Sessions(Keys keys, SecurityContextRepository contexts, Clock clock) {
    this.keys = keys;
    this.contexts = contexts;
    this.clock = clock;
  }

  /**
   * Signs in with a key.
   *
   * @throws ProblemException 401 if the key is not valid, 403 if it is not for people
   */
  public Caller signIn(String text, HttpServletRequest request, HttpServletResponse response) {
    AccessKey key = keys.find(text.strip());
    if (key == null) {
      throw new ProblemException(
          ProblemType.NO_KEY, "the key is not valid; it may be mistyped, expired or revoked");
    }
    if (key.right() != Right.ADMIN && key.right() != Right.READ) {
      throw new ProblemException(
          ProblemType.NOT_ALLOWED,
          "the console needs a key with the right admin or read; this one has "
              + key.right().word());
    }
    HttpSession old = request.getSession(false);
    if (old != null) {
      old.invalidate();
    }
    HttpSession session = request.getSession(true);
    Instant end = clock.instant().plus(LONGEST);
    Caller caller = Caller.of(key);
    Caller limited =
        new Caller(
            caller.keyId(),
            caller.name(),
            caller.right(),
            caller.scopes(),
            caller.until() == null || end.isBefore(caller.until()) ? end : caller.until());
    SecurityContext context = SecurityContextHolder.createEmptyContext();
    context.setAuthentication(new CallerAuthentication(limited));
    SecurityContextHolder.setContext(context);
    contexts.saveContext(context, request, response);
    open.put(session.getId(), new Open(session, key.id()));
    return limited;
  }

  /**
   * Signs out.
   *
   * @param everywhere whether also from all other sessions of the same key
   */
  public void signOut(HttpServletRequest request, boolean everywhere) {
    HttpSession session = request.getSession(false);
    Open one = session == null ? null : open.get(session.getId());
    List<Open> ending =
        one == null
            ? List.of()
            : everywhere
                ? open.values().stream().filter(o -> o.keyId().equals(one.keyId())).toList()
                : List.of(one);
    ending.forEach(Sessions::end);
    SecurityContextHolder.clearContext();
  }

  private static void end(Open one) {
    try {
      one.session().invalidate();
    } catch (IllegalStateException e) {
      // It has ended already.
    }
  }

  @Override
  public void sessionDestroyed(HttpSessionEvent event) {
    open.remove(event.getSession().getId());
  }
}
