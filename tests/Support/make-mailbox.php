<?php

declare(strict_types=1);

// make-mailbox.php FOLDER make|take: what whoever runs a mail server has put there for a desk; that of the stand-in, for tests. It reads
// the name of the mailbox.

use Kaiseki\StandIns\MailServer;

require __DIR__.'/../../vendor/autoload.php';

$account = trim((string) fgets(STDIN));
$server = MailServer::in($argv[1], 0);
if (str_contains($account, 'refused')) {
    fwrite(STDERR, "No group has that name.\n");
    exit(3);
}
$argv[2] === 'make' ? $server->mailbox($account, 'to-be-changed') : $server->withdraw($account);
