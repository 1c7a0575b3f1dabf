package org.mnemex.service.admin;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.util.List;
import java.util.Locale;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.install.Installation;
import org.mnemex.service.status.Indexes;
import org.mnemex.service.web.Callers;
import org.mnemex.sync.edition.EditionStore.EditionEntry;
import org.springframework.http.HttpHeaders;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RestController;

/** Editions: promotion and rollback. */
@Tag(name = "Editions", description = "physical builds of an index")
@RestController
public class EditionController {
  private final Installation installation;
  private final Indexes indexes;
  private final Callers callers;

  public EditionController(Installation installation, Indexes indexes, Callers callers) {
    this.callers = callers;
    this.installation = installation;
    this.indexes = indexes;
  }

  /**
   * An edition, existing or removed.
   *
   * @param number number of the edition
   * @param version version of the index definition that it was built from
   * @param state filling, ready, live, former or retired
   * @param fromStored whether it was filled from stored records instead of the database
   * @param until when a previous edition is removed, ISO 8601; otherwise null
   * @param filledRecords how many records it was filled with; null while it is being filled
   * @param filledMillis how long filling took, in milliseconds; null while it is being filled
   */
  public record EditionView(
      int number,
      int version,
      String state,
      boolean fromStored,
      @Nullable String until,
      @Nullable Long filledRecords,
      @Nullable Long filledMillis) {
    static EditionView of(EditionEntry entry) {
      return new EditionView(
          entry.number(),
          entry.version(),
          entry.state().name().toLowerCase(Locale.ROOT),
          entry.plan().fromStored(),
          entry.until() == null ? null : entry.until().toString(),
          entry.filled() == null ? null : entry.filled().records(),
          entry.filled() == null ? null : entry.filled().millis());
    }
  }

  @Operation(summary = "List all editions of an index, newest first")
  @GetMapping("/api/indexes/{index}/editions")
  public List<EditionView> editions(@PathVariable String index) {
    return indexes.history(index).reversed().stream().map(EditionView::of).toList();
  }

  @Operation(
      summary = "Promote the edition that waits for approval",
      description =
          "It answers from the next query on. The previous edition is kept and fed for the grace"
              + " period of the definition. An edition that is incomplete or lags is refused.")
  @PostMapping("/api/indexes/{index}/promote")
  public Indexes.IndexStatus promote(@PathVariable String index) {
    installation.promote(index);
    return indexes.one(index);
  }

  @Operation(
      summary = "Roll back to the previous edition",
      description =
          "It answers from the next query on, including all changes made meanwhile, and its"
              + " definition is current again, as a new version. The edition that was live is kept for"
              + " the grace period in its turn.")
  @PostMapping("/api/indexes/{index}/rollback")
  public Indexes.IndexStatus rollback(
      @PathVariable String index,
      @RequestHeader(name = HttpHeaders.FROM, defaultValue = "") String author) {
    installation.rollback(index, callers.author(Author.of(author)));
    return indexes.one(index);
  }
}
