from jarbloom.cli import main

main()
