"""Prints the ratios after the run."""

RATIOS: list[str] = []


def pytest_terminal_summary(terminalreporter):
    for line in RATIOS:
        terminalreporter.write_line(line)
