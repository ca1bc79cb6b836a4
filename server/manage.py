"""Django's command line for Ofen."""

import os
import sys
from pathlib import Path

HERE = Path(__file__).resolve().parent
sys.path[:0] = [str(HERE.parent / "core"), str(HERE)]

if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "ofen_server.settings")
    from django.core.management import execute_from_command_line

    execute_from_command_line(sys.argv)
