package org.mnemex.service.admin;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.access.ActivityLog;
import org.mnemex.service.store.ActivityMapper.ActivityRow;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** The activity log. */
@Tag(name = "Access")
@RestController
public class ActivityController {
  private final ActivityLog log;

  public ActivityController(ActivityLog log) {
    this.log = log;
  }

  @Operation(
      summary = "List administrative acts, newest first",
      description = "Refused ones included. For older ones pass the last number as 'before'.")
  @GetMapping("/api/activity")
  public List<ActivityRow> list(
      @RequestParam(required = false) @Nullable Long before,
      @RequestParam(name = "key_id", defaultValue = "") String keyId,
      @RequestParam(defaultValue = "") String target,
      @RequestParam(defaultValue = "false") boolean refused,
      @RequestParam(defaultValue = "100") int limit) {
    return log.before(before == null ? Long.MAX_VALUE : before, keyId, target, refused, limit);
  }
}
