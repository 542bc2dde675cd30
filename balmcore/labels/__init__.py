"""What stands on a label, and where: declaration, fonts, layout in millimetres, sheets, PDF."""
