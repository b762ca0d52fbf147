"""Pages of reasons: what stands behind a cause, what people disagree about, what they believe."""
