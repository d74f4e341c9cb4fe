<?php

declare(strict_types=1);

// The router of a PHP server: writes what is posted as a line of JSON into SINK_FILE, and answers as SINK_FILE.status says.

file_put_contents(
    (string) getenv('SINK_FILE'),
    json_encode(['path' => $_SERVER['REQUEST_URI'], 'headers' => getallheaders(), 'body' => file_get_contents('php://input')])."\n",
    FILE_APPEND,
);
$status = (int) (@file_get_contents(getenv('SINK_FILE').'.status') ?: 200);
http_response_code($status);
if ($status >= 300 && $status < 400) {
    header('Location: /elsewhere');
}
