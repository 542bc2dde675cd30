"""What a double click on Calm Tin starts."""

from multiprocessing import freeze_support

from calmtin.command import main

if __name__ == "__main__":
    freeze_support()
    main()
