package org.mnemex.service.endpoint;

import java.util.List;
import org.mnemex.sync.definition.InvalidDefinitionException;

/** An endpoint that an index cannot answer. */
public final class UnfitEndpointException extends RuntimeException {
  private static final long serialVersionUID = 1L;
  private final transient List<InvalidDefinitionException> reasons;

  UnfitEndpointException(List<InvalidDefinitionException> reasons) {
    super(reasons.getFirst().getMessage());
    this.reasons = List.copyOf(reasons);
  }

  /** Everything that does not fit, at least one. */
  public List<InvalidDefinitionException> reasons() {
    return reasons;
  }
}
