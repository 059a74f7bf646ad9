-- Gradients in steps have one name, of what is found and of what is foreseen.
UPDATE assays SET findings = REPLACE(findings, '"stepped-gradient"', '"banding"') WHERE findings LIKE '%"stepped-gradient"%';
UPDATE waivers SET subject = REPLACE(subject, '"stepped-gradient"', '"banding"') WHERE subject LIKE '%"stepped-gradient"%';
UPDATE briefs SET body = REPLACE(body, '"stepped-gradient"', '"banding"') WHERE body LIKE '%"stepped-gradient"%';
