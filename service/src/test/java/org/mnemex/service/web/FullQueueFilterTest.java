package org.mnemex.service.web;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.mnemex.service.compute.SearchSlots;
import org.springframework.mock.web.MockFilterChain;
import org.springframework.mock.web.MockHttpServletRequest;
import org.springframework.mock.web.MockHttpServletResponse;

class FullQueueFilterTest {
  @ParameterizedTest
  @CsvSource({
    "/search/plant-search, true, 503",
    "/search/plant-search, false, 200",
    "/api/overview, true, 200"
  })
  void onlySearchesAreRefusedAndOnlyWhileTheQueueIsFull(String path, boolean full, int status)
      throws Exception {
    SearchSlots slots = mock();
    when(slots.isFull()).thenReturn(full);
    when(slots.fullness()).thenReturn("4 run, 128 wait");
    MockHttpServletResponse response = new MockHttpServletResponse();
    MockFilterChain chain = new MockFilterChain();
    new FullQueueFilter(slots).doFilter(new MockHttpServletRequest("GET", path), response, chain);
    assertThat(response.getStatus()).isEqualTo(status);
    assertThat(chain.getRequest() == null).isEqualTo(status == 503);
    if (status == 503) {
      assertThat(response.getHeader("Retry-After")).isEqualTo("1");
      assertThat(response.getContentAsString()).contains("/problems/too-busy", "128 wait");
    }
  }
}
