package org.mnemex.service.admin;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.access.Caller;
import org.mnemex.service.web.Callers;
import org.mnemex.service.web.Sessions;
import org.springframework.http.CacheControl;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Sessions of the console. */
@Tag(name = "Access")
@RestController
public class SessionController {
  private final Callers callers;
  private final Sessions sessions;

  public SessionController(Callers callers, Sessions sessions) {
    this.callers = callers;
    this.sessions = sessions;
  }

  /**
   * Who calls.
   *
   * @param keys whether callers need keys
   * @param name name of the caller's key; null if nobody is signed in
   * @param right what the caller may do: admin, read, write, search or node; null for nothing
   */
  public record SessionView(boolean keys, @Nullable String name, @Nullable String right) {}

  /**
   * A key to sign in with.
   *
   * @param key the key's text
   */
  public record SignInBody(String key) {}

  @Operation(summary = "Tell who is signed in")
  @GetMapping("/api/session")
  public ResponseEntity<SessionView> get() {
    return answer(callers.current());
  }

  @Operation(
      summary = "Sign in with a key",
      description = "For browsers: the answer sets a cookie. Programs send the key itself.")
  @PostMapping("/api/session")
  public ResponseEntity<SessionView> signIn(
      @RequestBody SignInBody body, HttpServletRequest request, HttpServletResponse response) {
    return answer(sessions.signIn(String.valueOf(body.key()), request, response));
  }

  @Operation(
      summary = "Sign out",
      description = "With everywhere=true also all other sessions of the same key.")
  @DeleteMapping("/api/session")
  public ResponseEntity<SessionView> signOut(
      @RequestParam(defaultValue = "false") boolean everywhere, HttpServletRequest request) {
    sessions.signOut(request, everywhere);
    return answer(null);
  }

  private ResponseEntity<SessionView> answer(@Nullable Caller caller) {
    return ResponseEntity.ok()
        .cacheControl(CacheControl.noStore())
        .body(
            new SessionView(
                callers.needKeys(),
                caller == null ? null : caller.name(),
                caller == null ? null : caller.right().word()));
  }
}
