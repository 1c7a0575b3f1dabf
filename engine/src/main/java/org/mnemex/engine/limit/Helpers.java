package org.mnemex.engine.limit;

import java.util.List;
import java.util.function.IntFunction;
import java.util.function.Supplier;

/** Runs parts of a search at the same time, such as on the threads of processors that are free. */
public interface Helpers {
  /** No help: everything is one part. */
  Helpers NONE =
      new Helpers() {
        @Override
        public <T> List<T> share(long documents, IntFunction<List<Supplier<T>>> divide) {
          return divide.apply(1).stream().map(Supplier::get).toList();
        }
      };

  /**
   * Runs the parts of a search. All of them have ended when it returns or throws.
   *
   * @param documents about how many documents are to be looked at; for few, help costs more than it
   *     saves
   * @param divide makes as many parts as it is told, from 1
   * @return what came of each part, in their order
   */
  <T> List<T> share(long documents, IntFunction<List<Supplier<T>>> divide);
}
