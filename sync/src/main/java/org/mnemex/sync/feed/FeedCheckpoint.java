package org.mnemex.sync.feed;

import java.time.Instant;
import java.util.Map;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.ReadColumns;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.json.JsonMapper;

/**
 * What a feed commits together with the documents, to resume after a stop or crash.
 *
 * @param position all changes up to it are applied to the records read so far; null before the
 *     start
 * @param time when it was written
 * @param columns the columns that are read; null if unknown
 * @param fill progress of the fill, see {@link Fill#note}
 */
record FeedCheckpoint(
    @Nullable Position position,
    @Nullable Instant time,
    @Nullable ReadColumns columns,
    Map<String, String> fill) {
  private static final ObjectMapper JSON = JsonMapper.shared();
  private static final String POSITION = "position";
  private static final String TIME = "time";
  private static final String COLUMNS = "columns";

  static FeedCheckpoint read(Checkpoint checkpoint) {
    Map<String, String> values = checkpoint.values();
    String position = values.get(POSITION);
    String time = values.get(TIME);
    return new FeedCheckpoint(
        position == null ? null : Position.parse(position),
        time == null ? null : Instant.parse(time),
        columns(values),
        values);
  }

  /** The columns that are read, according to a checkpoint; null if it does not say. */
  static @Nullable ReadColumns columns(Checkpoint checkpoint) {
    return columns(checkpoint.values());
  }

  private static @Nullable ReadColumns columns(Map<String, String> values) {
    String columns = values.get(COLUMNS);
    return columns == null ? null : JSON.readValue(columns, ReadColumns.class);
  }

  Checkpoint toCheckpoint() {
    Map<String, String> values = new TreeMap<>(fill);
    values.put(POSITION, String.valueOf(position));
    values.put(TIME, String.valueOf(time));
    if (columns != null) {
      values.put(COLUMNS, JSON.writeValueAsString(columns));
    }
    return new Checkpoint(values);
  }
}
