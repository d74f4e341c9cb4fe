<?php

declare(strict_types=1);

// A bucket in small for `php -S`: PUT, GET with Range, and ListObjectsV2, on the folder in BUCKET_FOLDER. Each request is a line in
// BUCKET_LOG. As the S3 API reference has these operations; nothing else of it.

$path = rawurldecode((string) parse_url($_SERVER['REQUEST_URI'], PHP_URL_PATH));
[, $bucket, $key] = array_pad(explode('/', $path, 3), 3, '');
$file = getenv('BUCKET_FOLDER').'/'.$key;
file_put_contents(
    (string) getenv('BUCKET_LOG'),
    "{$_SERVER['REQUEST_METHOD']} /$key ".($_SERVER['HTTP_RANGE'] ?? '')."\n",
    FILE_APPEND,
);
if ($bucket !== 'sorrel' || ! str_contains($_SERVER['HTTP_AUTHORIZATION'] ?? '', 'Credential=key-of-the-test/')) {
    http_response_code(403);
    echo '<Error><Code>AccessDenied</Code><Message>no</Message></Error>';
} elseif ($_SERVER['REQUEST_METHOD'] === 'PUT') {
    is_dir(dirname($file)) || mkdir(dirname($file), 0755, true);
    $body = (string) file_get_contents('php://input');
    if (
        str_contains($_SERVER['HTTP_CONTENT_ENCODING'] ?? '', 'aws-chunked') ||
        str_starts_with($_SERVER['HTTP_X_AMZ_CONTENT_SHA256'] ?? '', 'STREAMING')
    ) {
        // Chunks: length in hexadecimal, extensions, the bytes.
        for ($decoded = '', $at = 0; ($length = (int) hexdec(strtok(substr($body, $at, 32), ";\r") ?: '0')) > 0;) {
            $at = strpos($body, "\r\n", $at) + 2;
            $decoded .= substr($body, $at, $length);
            $at += $length + 2;
        }
        $body = $decoded;
    }
    file_put_contents($file, $body);
    header('ETag: "'.md5($body).'"');
} elseif (isset($_GET['list-type'])) {
    header('Content-Type: application/xml');
    $prefix = $_GET['prefix'] ?? '';
    echo '<?xml version="1.0"?><ListBucketResult xmlns="http://s3.amazonaws.com/doc/2006-03-01/"><IsTruncated>false</IsTruncated>';
    foreach (glob(getenv('BUCKET_FOLDER')."/$prefix*") ?: [] as $object) {
        if (is_file($object)) {
            printf(
                '<Contents><Key>%s</Key><Size>%d</Size>'.
                    '<LastModified>2026-11-01T00:00:00.000Z</LastModified><StorageClass>STANDARD</StorageClass></Contents>',
                htmlspecialchars(substr($object, strlen((string) getenv('BUCKET_FOLDER')) + 1)),
                filesize($object),
            );
        }
    }
    echo '</ListBucketResult>';
} elseif (is_file($file)) {
    $size = (int) filesize($file);
    $from = preg_match('/^bytes=(\d+)-/', $_SERVER['HTTP_RANGE'] ?? '', $m) === 1 ? (int) $m[1] : 0;
    http_response_code($from > 0 ? 206 : 200);
    header('Content-Length: '.($size - $from));
    header("Content-Range: bytes $from-".($size - 1)."/$size");
    if ($_SERVER['REQUEST_METHOD'] === 'GET') {
        echo substr((string) file_get_contents($file), $from);
    }
} else {
    http_response_code(404);
    echo '<Error><Code>NoSuchKey</Code></Error>';
}
