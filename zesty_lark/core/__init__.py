"""What is true: the trade's rules and arithmetic as pure functions and frozen dataclasses.

Nothing here knows a screen, a database, a clock or a file of the user's. Lengths are exact
``Decimal`` millimetres; model quantities (times, ratios, temperatures) are floats.
"""
