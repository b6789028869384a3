"""What stands around the jobs: their list, their people, their files, and the commands of whoever serves
them.
"""
