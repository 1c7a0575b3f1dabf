package org.mnemex.service.admin;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.util.List;
import org.mnemex.service.status.FeedHistory;
import org.mnemex.service.status.Feeds;
import org.mnemex.service.status.Indexes;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RestController;

/** Feeds: pausing, approving removals, positions. */
@Tag(name = "Feeds", description = "how indexes follow their sources")
@RestController
public class FeedController {
  private final Feeds feeds;
  private final Indexes indexes;
  private final FeedHistory history;

  public FeedController(Feeds feeds, Indexes indexes, FeedHistory history) {
    this.history = history;
    this.feeds = feeds;
    this.indexes = indexes;
  }

  @Operation(
      summary = "Pause the feed of an index",
      description = "The index keeps answering; the source keeps changes in the meantime.")
  @PostMapping("/api/indexes/{index}/feed/pause")
  public Indexes.IndexStatus pause(@PathVariable String index) {
    feeds.pause(index);
    return indexes.one(index);
  }

  @Operation(summary = "Resume the feed of an index")
  @PostMapping("/api/indexes/{index}/feed/resume")
  public Indexes.IndexStatus resume(@PathVariable String index) {
    feeds.resume(index);
    return indexes.one(index);
  }

  @Operation(
      summary = "Approve the removal of many documents",
      description =
          "Changes that would remove more than a set share of the documents, and a new edition that"
              + " has so many fewer, are held until somebody approves.")
  @PostMapping("/api/indexes/{index}/feed/agree")
  public Indexes.IndexStatus agree(@PathVariable String index) {
    feeds.agree(index);
    return indexes.one(index);
  }

  @Operation(
      summary = "Get the last ten minutes of a feed, second by second",
      description = "How many records were updated, and the longest lag among them.")
  @GetMapping("/api/indexes/{index}/feed/history")
  public List<FeedHistory.Point> history(@PathVariable String index) {
    return history.of(index);
  }

  /**
   * The current position of a source.
   *
   * @param position the position
   */
  public record PositionAnswer(String position) {}

  @Operation(
      summary = "Get the current position of a source",
      description =
          "Passed to a search as true_for, the search waits until the index includes it: read"
              + " your own writes.")
  @GetMapping("/api/indexes/{index}/feed/position")
  public PositionAnswer position(@PathVariable String index) {
    return new PositionAnswer(feeds.position(index));
  }
}
