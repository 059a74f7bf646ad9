-- A bare number is a number of frames from now on; what was stored so far as one meant seconds, and says so.
UPDATE briefs SET body = JSON_SET(body, '$.duration', CONCAT(JSON_VALUE(body, '$.duration'), ' s'))
 WHERE JSON_VALUE(body, '$.duration') REGEXP '^ *[0-9]+([.,][0-9]+)? *$';
