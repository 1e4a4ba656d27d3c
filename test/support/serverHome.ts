/** Makes the tests of a project run on a PostgreSQL server. */
process.env.KINETIKON_TEST_HOME = 'server';
