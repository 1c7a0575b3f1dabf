package org.mnemex.service.admin;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.io.OutputStream;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.access.ActivityLog;
import org.mnemex.service.store.ActivityMapper.ActivityRow;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.json.JsonMapper;

/** The activity log. */
@Tag(name = "Access")
@RestController
public class ActivityController {
  private final ActivityLog log;
  private final JsonMapper json;

  public ActivityController(ActivityLog log, JsonMapper json) {
    this.log = log;
    this.json = json;
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

  @Operation(
      summary = "Export administrative acts as NDJSON, newest first",
      description = "All that the log still has, refused ones included.")
  @GetMapping("/api/activity/export")
  public void export(
      @RequestParam(name = "key_id", defaultValue = "") String keyId,
      @RequestParam(defaultValue = "") String target,
      @RequestParam(defaultValue = "false") boolean refused,
      HttpServletResponse response)
      throws IOException {
    response.setContentType("application/x-ndjson");
    response.setCharacterEncoding("UTF-8");
    OutputStream out = response.getOutputStream();
    long before = Long.MAX_VALUE;
    while (true) {
      List<ActivityRow> acts = log.before(before, keyId, target, refused, ActivityLog.MAX_LISTED);
      if (acts.isEmpty()) {
        out.flush();
        return;
      }
      for (ActivityRow act : acts) {
        out.write(json.writeValueAsBytes(act));
        out.write('\n');
      }
      before = acts.getLast().id();
    }
  }
}
