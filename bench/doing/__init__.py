"""What is done at the bench beside one step: grown, taken back, logged, called off."""
