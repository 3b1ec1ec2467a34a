"""Do the tests of one soil tell one story?"""
