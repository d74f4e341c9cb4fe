<?php

declare(strict_types=1);

// smtp.php PORT-FILE MAILS: takes mail as a server does (RFC 5321, as far as a client needs), and writes each to a file as a line of JSON.

[, $portFile, $mails] = $argv;
$server = stream_socket_server('tcp://127.0.0.1:0') ?: exit(1);
file_put_contents("$portFile.new", substr((string) strrchr((string) stream_socket_get_name($server, false), ':'), 1));
rename("$portFile.new", $portFile);
while (true) {
    $client = @stream_socket_accept($server, -1) ?: exit(0);
    fwrite($client, "220 sink\r\n");
    $to = [];
    while (($line = fgets($client)) !== false) {
        $verb = strtoupper(substr(trim($line), 0, 4));
        if ($verb === 'RCPT') {
            $to[] = trim(substr(trim($line), 8), ' <>');
        }
        if ($verb === 'DATA') {
            fwrite($client, "354 go on\r\n");
            for ($text = ''; ($line = fgets($client)) !== false && rtrim($line) !== '.'; $text .= $line);
            file_put_contents($mails, json_encode(['to' => $to, 'text' => mb_scrub($text), 'raw' => base64_encode($text)])."\n",
                FILE_APPEND);
            $to = [];
        }
        fwrite($client, $verb === 'QUIT' ? "221 bye\r\n" : "250 ok\r\n");
        if ($verb === 'QUIT') {
            break;
        }
    }
    fclose($client);
}
