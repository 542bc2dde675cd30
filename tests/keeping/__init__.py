"""What keeps a maker's work: starting, copies, exports, upgrades, the wheel."""
