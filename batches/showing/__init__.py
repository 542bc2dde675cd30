"""What pages show of batches: cards and the plan by time, the printed sheet, estimates, the list for a spreadsheet."""
