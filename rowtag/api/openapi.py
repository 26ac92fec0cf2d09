"""Prints the description of the HTTP interface, from which the front end's types are made."""

import json

from rowtag.api.app import create_app

if __name__ == "__main__":
    print(json.dumps(create_app(None).openapi(), indent=1))
