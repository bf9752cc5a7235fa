"""What tests, benchmarks and screenshots share."""
